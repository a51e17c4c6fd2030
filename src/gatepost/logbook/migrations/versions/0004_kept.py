# SPDX-License-Identifier: GPL-3.0-or-later
"""What the shop keeps from job to job: beds, machines, plates and sensors."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "kept",
        sa.Column("kind", sa.String(16), primary_key=True),
        sa.Column("name", sa.String(80), primary_key=True),
        sa.Column("data", sa.Text, nullable=False),
        sa.Column("changed", sa.String(32), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("kept")
