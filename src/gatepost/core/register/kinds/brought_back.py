# SPDX-License-Identifier: GPL-3.0-or-later
"""The piece was taken from the machine, and is brought back."""

from __future__ import annotations

from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.register import BroughtBack
from gatepost.core.job.rows import holes_there
from gatepost.core.register.kind import STAGE, Coming, ComingTold, RegisterKind


class BroughtBackKind(RegisterKind):
    """Away from the machine since the setup before, and touched anew."""

    figures, one = BroughtBack, "brought back"
    laying = "Brush the piece that was brought back clean underneath, and lay it with its corner at {where}."
    entries = (KindEntry("Measured again since", "choice", "measured", (("yes", True), ("no", False))),)

    def told(self, coming: Coming) -> ComingTold:
        """That nothing is known of where it lies, and that wood which was away is another size."""
        setup, comes = coming.setup, coming.setup.comes
        assert isinstance(comes, BroughtBack)
        there = holes_there(coming.job, setup)
        fixes = (Fix("marks from art", {"setup": setup.id}, "Find it by its own marks"),) if there else ()
        message = f"In {coming.name} the piece comes back to the machine, and X0 Y0 is touched anew: what is cut there lies beside what was cut before by as much as both touchings are off. Marks of the piece itself find it surer."
        said = [Finding("register.brought-back", Level.NOTE, STAGE, message, setup.id, fixes=fixes)]
        if not comes.measured:
            message = f"The piece was away before {coming.name}, and was not measured since: wood in another air is another size, and coats make it thicker. Measure thickness and outline again, and enter them on the Blank page."
            done = Fix("set register", {"setup": setup.id, "kind": "brought back", "measured": True}, "It was measured again")  # fmt: skip
            said.append(Finding("register.back-unmeasured", Level.CARE, STAGE, message, setup.id, fixes=(done,)))
        return ComingTold(findings=tuple(said))
