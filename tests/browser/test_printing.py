"""Handing a part to a printer by mouse: a face laid down, what would go wrong, the file."""

import pytest

from tests.browser.test_groups import BLOCK, face
from tests.browser.test_steps import part_with, step
from vireo.core.exchange.meshfile import read_mesh


def test_a_part_is_laid_down_looked_over_and_written(page, server, downloads):
    leg = step("primitive", width="10 mm", depth="10 mm", height="30 mm", x="25 mm", y="15 mm",
               z="-30 mm", result="add")  # fmt: skip
    part_with(page, server, BLOCK, leg)
    page.press_text("Hand over")
    page.press_text("For printing: 3MF, STL")
    page.wait(lambda: "overhangs with 2300 mm²" in page.text("print"), "it stands on its leg")
    page.mouse(*face(page, "s1/top"))
    page.wait(lambda: "Nothing to complain about" in page.text("print"), "its top lies down")
    page.press("write-print")
    found = page.wait(lambda: list(downloads.glob("*.3mf")), "the file")
    (mesh,) = read_mesh(found[0].read_bytes())
    assert mesh.points[:, 2].min() == pytest.approx(0, abs=1e-6)
    assert mesh.points[:, 2].max() == pytest.approx(50)
