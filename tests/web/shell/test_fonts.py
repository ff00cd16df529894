"""Our own fonts carry every sign between digits: nothing is left to what a machine has."""

from pathlib import Path

import pytest
from fontTools.ttLib import TTFont

from aldea.core.base.figures import GAP
from aldea.web.shell.printing import STATIC

FACES = ("andada-pro", "atkinson-hyperlegible-next")


@pytest.mark.parametrize("face", FACES)
def test_the_gap_between_thousands_is_a_sign_of_its_own_and_thinner_than_a_blank(face):
    """Where a font lacks it the shaper takes half a blank, which kerning closes again."""
    font = TTFont(Path(STATIC) / "fonts" / f"{face}-latin-wght-normal.woff2")
    signs, widths = font.getBestCmap(), font["hmtx"]
    assert ord(GAP) in signs
    gap, blank = widths[signs[ord(GAP)]][0], widths[signs[ord(" ")]][0]
    assert 0.3 * blank < gap < 0.6 * blank
    assert ord("−") in signs
