# SPDX-License-Identifier: GPL-3.0-or-later
"""What a run cut: wood, metres, its chip, how long each of its cuts took, at which feed it was kept, and what was said while it ran."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None
WORDS = (("wood", ""), ("wood_kind", ""), ("cuts", "[]"), ("overrides", "[]"), ("marks", "[]"))


def upgrade() -> None:
    for name, empty in WORDS:
        op.add_column("runs", sa.Column(name, sa.Text, nullable=False, server_default=empty))
    for name in ("metres", "chip"):
        op.add_column("runs", sa.Column(name, sa.Float, nullable=False, server_default="0"))


def downgrade() -> None:
    for name in ("metres", "chip", *(name for name, _ in reversed(WORDS))):
        op.drop_column("runs", name)
