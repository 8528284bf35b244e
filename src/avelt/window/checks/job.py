"""The checks, away from the window's thread."""

from __future__ import annotations

from avelt.core.errors import Stopped
from avelt.core.model.values import Project
from avelt.window.common.jobs import Job


class CheckJob(Job):
    """Checks a project; answered with its findings."""

    def __init__(self, project: Project) -> None:
        super().__init__(project)
        self.project = project

    def work(self) -> object:
        from avelt.core.checks.table import findings

        stopped = False

        def go_on(done: int, whole: int) -> bool:
            nonlocal stopped
            stopped = not self.go_on(done, whole)
            return not stopped

        found = findings(self.project, go_on)
        if stopped:
            raise Stopped()
        return found
