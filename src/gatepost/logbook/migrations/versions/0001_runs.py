# SPDX-License-Identifier: GPL-3.0-or-later
"""The first table: runs."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

WORDS = {"started": 32, "ended": 32, "state": 16, "kind": 16, "job": 80, "setup": 32, "program": 80, "tool": 80, "blank": 120,
         "fingerprint": 16, "owner": 120}  # fmt: skip
TEXTS = ("path", "zeros", "stops", "remarks", "reason")


def upgrade() -> None:
    op.create_table(
        "runs",
        sa.Column("id", sa.Integer, primary_key=True),
        *(sa.Column(name, sa.String(size), nullable=False, server_default="") for name, size in WORDS.items()),
        *(sa.Column(name, sa.Text, nullable=False, server_default="") for name in TEXTS),
        sa.Column("planned_minutes", sa.Float, nullable=False),
        sa.Column("real_minutes", sa.Float, nullable=True),
        sa.Column("blocks_done", sa.Integer, nullable=False, server_default="0"),
        sa.Column("blocks", sa.Integer, nullable=False, server_default="0"),
    )
    op.create_index("runs_by_job", "runs", ["job"])


def downgrade() -> None:
    op.drop_table("runs")
