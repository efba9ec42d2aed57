"""Whatever hands do in the real window, what is open stays an engine that can be saved.

An exception in any slot or event fails the test, whatever else it looks at.
"""

from pathlib import Path

import pytest

from tests.conftest import Answers, MakeWindow
from tests.generators.hands import Hands
from true_compass.files.engine_file import engine_text, parse_engine
from true_compass.files.rigs import rig_names, rig_text


@pytest.mark.parametrize("seed", range(4))
def test_whatever_hands_do_the_engine_stays_whole(
    open_window: MakeWindow, answers: Answers, tmp_path: Path, seed: int
) -> None:
    dropped = tmp_path / "dropped.engine.toml"
    dropped.write_text(rig_text(rig_names()[seed]), encoding="utf-8")
    answers.path = dropped if seed % 2 else None
    window = open_window(rig_names()[4 * seed])
    hands = Hands(window, seed)
    for step in range(130):
        hands.act()
        state = window.session.state
        assert 0.0 <= state.crank_deg < 720.0, hands.done[-3:]
        # Whatever was typed or picked, what is open can be saved and read again as it is.
        text = engine_text(state.engine)
        assert parse_engine(text, "hands") == state.engine, hands.done[-3:]
        if step % 10 == 0:
            window.grab()
    assert "went wrong" not in window.note.text
