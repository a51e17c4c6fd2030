# SPDX-License-Identifier: GPL-3.0-or-later
"""Lessons, and pieces as they were judged. A run tells its machine, and has a key of its own, by which it is known when it
is taken in from its file."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None
TEXTS = ("wood", "tool", "kind", "hold", "machine", "amount")


def upgrade() -> None:
    op.create_table(
        "lessons",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("words", sa.Text, nullable=False),
        sa.Column("stage", sa.String(16), nullable=False),
        *(sa.Column(name, sa.String(80), nullable=False, server_default="") for name in TEXTS),
        sa.Column("bad", sa.Float, nullable=True),
        sa.Column("good", sa.Float, nullable=True),
        sa.Column("made", sa.String(32), nullable=False),
        sa.Column("run", sa.Integer, nullable=False, server_default="0"),
        sa.Column("held", sa.Integer, nullable=False, server_default="0"),
        sa.Column("failed", sa.Integer, nullable=False, server_default="0"),
        sa.Column("judged", sa.String(32), nullable=False, server_default=""),
        sa.Column("declined", sa.Text, nullable=False, server_default="[]"),
        sa.Column("ended", sa.String(32), nullable=False, server_default=""),
    )
    op.create_table(
        "results",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("job", sa.String(80), nullable=False),
        sa.Column("path", sa.Text, nullable=False, server_default=""),
        sa.Column("fingerprint", sa.String(64), nullable=False, server_default=""),
        sa.Column("words", sa.Text, nullable=False, server_default=""),
        sa.Column("told", sa.Text, nullable=False, server_default="{}"),
    )
    op.add_column("runs", sa.Column("machine", sa.Text, nullable=False, server_default=""))
    op.add_column("runs", sa.Column("key", sa.String(32), nullable=False, server_default=""))
    known = sa.text("key <> ''")
    op.create_index("runs_key", "runs", ["key"], unique=True, postgresql_where=known, sqlite_where=known)
    op.create_index("runs_job", "runs", ["job"])
    op.create_index("results_job", "results", ["job"])


def downgrade() -> None:
    op.drop_index("results_job", "results")
    op.drop_table("results")
    op.drop_index("runs_job", "runs")
    op.drop_table("lessons")
    op.drop_index("runs_key", "runs")
    op.drop_column("runs", "key")
    op.drop_column("runs", "machine")
