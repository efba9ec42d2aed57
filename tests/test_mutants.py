"""An engine that is accepted can be worked with: rigs with a few values changed.

Whatever the reader lets in must come back from a file, turn over, have plans, and be drawn.
"""

from random import Random

import numpy as np
import pytest

from tests.generators.engines import mutant, work_through
from true_compass.core.engine import Engine
from true_compass.files.engine_file import parse_engine
from true_compass.files.problems import EngineFileError
from true_compass.files.rigs import rig_names, rig_text

ENGINES = 2
"""How many accepted ones of each rig are worked through."""


@pytest.mark.usefixtures("qapp")
@pytest.mark.parametrize("name", rig_names())
def test_what_is_accepted_can_be_worked_with(name: str) -> None:
    random = Random(name)
    accepted: list[Engine] = []
    refused: list[EngineFileError] = []
    while len(accepted) < ENGINES:
        text = mutant(rig_text(name), random)
        with np.errstate(all="raise", under="ignore"):
            try:
                accepted.append(parse_engine(text, "mutant"))
            except EngineFileError as error:
                refused.append(error)
                continue
            work_through(accepted[-1], random)
    sentences = [str(problem) for error in refused for problem in error.problems]
    assert all(sentence.endswith(".") and "\n" not in sentence for sentence in sentences)
