"""Gains that are proposed, in the place of the ladder."""

from collections.abc import Callable

from kymaton.app.hearing.proposal import ProposalView
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.levels.gains import propose_gains
from kymaton.core.planning.planner import Proposal


class GainsView(ProposalView):
    """What to set so that nothing clips or drowns, and the programme is at its goal."""

    nothing = "All gains stand where they are to be"

    @staticmethod
    def search(report: Report, going: Callable[[], bool]) -> Proposal:
        """Gains, then faders."""
        plan = propose_gains(report, going=going)
        if not plan.changes:
            return Proposal((), (), bounded=plan.ended, said=plan.remarks)
        before = {f.key for f in report.findings}
        after = Report(apply(report.show, plan.changes), report.graph).findings
        left = {f.key for f in after}
        cured = tuple(f for f in report.findings if f.key not in left)
        brings = tuple(f for f in after if f.severity != "note" and f.key not in before)
        return Proposal(plan.changes, cured, bounded=plan.ended, said=plan.remarks, brings=brings)
