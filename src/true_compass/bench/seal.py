"""A seal: what is hidden of a scenario is encrypted under a word, and so nobody can read it first.

The key that the word gives stays in memory. Each line of a log made meanwhile carries a mark that
only this key can make: it shows that the log was made after the word was typed, and not altered
since. It does not show who sat there.
"""

import hashlib
import hmac
from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class Seal:
    """An open seal: the file as it was handed out, which tells nothing, and the key in memory."""

    text: str
    key: bytes = field(repr=False)

    @property
    def digest(self) -> str:
        """What tells the sealed scenario from any other."""
        return hashlib.sha256(self.text.encode("utf-8")).hexdigest()

    def mac_of(self, chain: str) -> str:
        """The mark that goes with a line whose chain is `chain` (RFC 2104, HMAC with SHA-256)."""
        return hmac.new(self.key, chain.encode("ascii"), "sha256").hexdigest()

    def holds(self, chain: str, mac: object) -> bool:
        """Whether a line's mark was made with this key."""
        return isinstance(mac, str) and hmac.compare_digest(self.mac_of(chain), mac)
