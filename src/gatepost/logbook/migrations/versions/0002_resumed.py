# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs that go on where another ended: which, and after which of its blocks."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("runs", sa.Column("resumes", sa.Integer, nullable=True))
    op.add_column("runs", sa.Column("after_block", sa.Integer, nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("runs", "after_block")
    op.drop_column("runs", "resumes")
