# SPDX-License-Identifier: GPL-3.0-or-later
"""Linear programmes, solved by HiGHS (Huangfu and Hall 2018, Parallelizing the dual revised simplex method)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from scipy.sparse import csr_array

Array = NDArray[np.float64]
Bounds = Sequence[tuple[float | None, float | None]]


@dataclass(frozen=True)
class Solved:
    """The unknowns where the cost is least, and that cost."""

    x: Array
    cost: float


def least(cost: Any, rows: Array | csr_array, limits: Array, bounds: Bounds) -> Solved | None:
    """Unknowns x that make cost·x least, with rows·x <= limits and each within its bounds (nothing: open).

    cost (n,); rows (m, n), plain or sparse by rows; limits (m,). Nothing where no x does, or no least one is.
    """
    import highspy  # not wanted by every job

    programme = highspy.HighsLp()
    programme.num_row_, programme.num_col_ = rows.shape
    programme.col_cost_ = np.asarray(cost, np.float64)
    programme.col_lower_ = np.array([-np.inf if low is None else low for low, _ in bounds])
    programme.col_upper_ = np.array([np.inf if high is None else high for _, high in bounds])
    programme.row_lower_ = np.full(len(limits), -np.inf)
    programme.row_upper_ = np.asarray(limits, np.float64)
    matrix = programme.a_matrix_
    matrix.format_ = highspy.MatrixFormat.kRowwise
    starts: NDArray[Any]
    columns: NDArray[Any]
    if isinstance(rows, np.ndarray):
        j, i = np.nonzero(rows)
        starts, columns, values = np.searchsorted(j, np.arange(len(rows) + 1)), i, rows[j, i]
    else:
        starts, columns, values = rows.indptr, rows.indices, rows.data
    matrix.start_, matrix.index_, matrix.value_ = starts.astype(np.int32), columns.astype(np.int32), values
    solver: Any = highspy.Highs()  # type: ignore[no-untyped-call]
    solver.setOptionValue("output_flag", False)
    solver.setOptionValue("threads", 1)
    solver.passModel(programme)
    solver.run()
    if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
        return None
    return Solved(np.array(solver.getSolution().col_value), float(solver.getInfo().objective_function_value))
