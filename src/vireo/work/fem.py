"""The strength solver's own process: ``python -m vireo.work.fem FOLDER``.

Reads problem.json and body.brep, writes answer.json and field.npz, tells progress as JSON
lines. It never loads the geometry kernel.
"""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path

from vireo.work.lifetime import die_with_parent

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")


def main(folder: Path) -> int:
    die_with_parent()
    import numpy as np

    from vireo.core.strength.problem import Problem
    from vireo.core.strength.solver import run
    from vireo.core.trouble import Report, Trouble

    def say(share: float, stage: str) -> None:
        print(json.dumps({"share": round(share, 3), "stage": stage}), flush=True)

    problem = Problem.model_validate_json((folder / "problem.json").read_text())
    try:
        answer, field = run(str(folder / "body.brep"), problem, say)
    except Trouble as trouble:
        (folder / "trouble.json").write_text(trouble.report().model_dump_json())
        return 3
    except Exception as error:  # the mesher raises its own kinds
        text = f"the mesher or solver stopped: {error}"[:300]
        report = Report(code="strength", text=text)
        (folder / "trouble.json").write_text(report.model_dump_json())
        return 3
    np.savez(
        folder / "field.npz",
        points=field.points, displacement=field.displacement, von_mises=field.von_mises,
        stress=field.stress, surface=field.surface, face=field.face,
    )  # fmt: skip
    (folder / "answer.json").write_text(answer.model_dump_json())
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))
