# SPDX-License-Identifier: GPL-3.0-or-later
"""The shop's woods and its offcuts worth keeping."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "woods",
        sa.Column("name", sa.String(80), primary_key=True),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("density", sa.Float, nullable=False),
        sa.Column("note", sa.Text, nullable=False, server_default=""),
        sa.Column("changed", sa.String(32), nullable=False),
    )
    op.create_table(
        "offcuts",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("wood", sa.String(80), nullable=False),
        sa.Column("length", sa.Float, nullable=False),
        sa.Column("width", sa.Float, nullable=False),
        sa.Column("thickness", sa.Float, nullable=False),
        sa.Column("job", sa.String(80), nullable=False, server_default=""),
        sa.Column("added", sa.String(32), nullable=False),
        sa.Column("used", sa.String(32), nullable=False, server_default=""),
    )


def downgrade() -> None:
    op.drop_table("offcuts")
    op.drop_table("woods")
