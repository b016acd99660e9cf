"""What a step says when it cannot be built."""

from __future__ import annotations

from vireo.core.trouble import Lost, Report, Trouble


class StepTrouble(Trouble):
    """The step cannot be built as asked."""

    code = "step"


class LostPick(StepTrouble):
    """A pick no longer stands for anything; nothing was put in its place."""

    code = "lost_pick"
    lost: Lost | None = None

    def report(self) -> Report:
        return super().report().model_copy(update={"lost": self.lost})
