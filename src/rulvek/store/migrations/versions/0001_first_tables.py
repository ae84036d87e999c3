"""First tables"""

import sqlalchemy as sa
from alembic import op

import rulvek.store.types

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "audit_entry",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.Column("person", sa.String(length=200), nullable=False),
        sa.Column("action", sa.String(length=200), nullable=False),
        sa.Column("subject", sa.String(length=200), nullable=False),
        sa.Column("detail", sa.JSON(), nullable=False),
        sa.Column("previous", sa.String(length=200), nullable=False),
        sa.Column("hash", sa.String(length=200), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_audit_entry")),
        sa.UniqueConstraint("hash", name=op.f("uq_audit_entry_hash")),
    )
    with op.batch_alter_table("audit_entry", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_audit_entry_subject"), ["subject"], unique=False)

    op.create_table(
        "series",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("purpose", sa.String(length=200), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_series")),
        sa.UniqueConstraint("name", name=op.f("uq_series_name")),
    )
    op.create_table(
        "model",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("series_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("topology", sa.String(length=200), nullable=False),
        sa.Column("description", sa.String(length=200), nullable=False),
        sa.Column("regulated", sa.Boolean(), nullable=False),
        sa.Column("supply_low_volts", sa.Double(), nullable=False),
        sa.Column("supply_high_volts", sa.Double(), nullable=False),
        sa.Column("sensitivity_volts", sa.Double(), nullable=False),
        sa.Column("test_controls", sa.JSON(), nullable=False),
        sa.Column("design", sa.String(length=200), nullable=False),
        sa.ForeignKeyConstraint(["series_id"], ["series.id"], name=op.f("fk_model_series_id_series")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_model")),
        sa.UniqueConstraint("name", name=op.f("uq_model_name")),
    )
    with op.batch_alter_table("model", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_model_series_id"), ["series_id"], unique=False)

    op.create_table(
        "channel_group",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("model_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("channels", sa.JSON(), nullable=False),
        sa.Column("rated_loads", sa.JSON(), nullable=False),
        sa.Column("bridged_loads", sa.JSON(), nullable=False),
        sa.Column("bass", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["model_id"], ["model.id"], name=op.f("fk_channel_group_model_id_model")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_channel_group")),
    )
    with op.batch_alter_table("channel_group", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_channel_group_model_id"), ["model_id"], unique=False)

    op.create_table(
        "claim",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("model_id", sa.Integer(), nullable=False),
        sa.Column("group", sa.String(length=200), nullable=False),
        sa.Column("document", sa.String(length=200), nullable=False),
        sa.Column("watts", sa.Double(), nullable=False),
        sa.Column("load_ohms", sa.Double(), nullable=False),
        sa.Column("bridged", sa.Boolean(), nullable=False),
        sa.Column("kind", sa.String(length=200), nullable=False),
        sa.Column("supply_volts", sa.Double(), nullable=True),
        sa.Column("thd_n_percent", sa.Double(), nullable=True),
        sa.Column("band_low_hz", sa.Double(), nullable=True),
        sa.Column("band_high_hz", sa.Double(), nullable=True),
        sa.Column("added_by", sa.String(length=200), nullable=False),
        sa.Column("added_at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.ForeignKeyConstraint(["model_id"], ["model.id"], name=op.f("fk_claim_model_id_model")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_claim")),
    )
    with op.batch_alter_table("claim", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_claim_model_id"), ["model_id"], unique=False)

    op.create_table(
        "unit",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("model_id", sa.Integer(), nullable=False),
        sa.Column("serial", sa.String(length=200), nullable=False),
        sa.Column("lot", sa.String(length=200), nullable=False),
        sa.Column("revision", sa.String(length=200), nullable=False),
        sa.Column("origin", sa.String(length=200), nullable=False),
        sa.Column("received_at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.ForeignKeyConstraint(["model_id"], ["model.id"], name=op.f("fk_unit_model_id_model")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_unit")),
        sa.UniqueConstraint("serial", name=op.f("uq_unit_serial")),
    )
    with op.batch_alter_table("unit", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_unit_model_id"), ["model_id"], unique=False)

    op.create_table(
        "campaign",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("unit_id", sa.Integer(), nullable=False),
        sa.Column("bench", sa.String(length=200), nullable=False),
        sa.Column("supply_volts", sa.Double(), nullable=False),
        sa.Column("method", sa.JSON(), nullable=False),
        sa.Column("created_by", sa.String(length=200), nullable=False),
        sa.Column("created_at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.ForeignKeyConstraint(["unit_id"], ["unit.id"], name=op.f("fk_campaign_unit_id_unit")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_campaign")),
    )
    with op.batch_alter_table("campaign", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_campaign_unit_id"), ["unit_id"], unique=False)

    op.create_table(
        "claim_withdrawal",
        sa.Column("claim_id", sa.Integer(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("withdrawn_by", sa.String(length=200), nullable=False),
        sa.Column("withdrawn_at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.ForeignKeyConstraint(["claim_id"], ["claim.id"], name=op.f("fk_claim_withdrawal_claim_id_claim")),
        sa.PrimaryKeyConstraint("claim_id", name=op.f("pk_claim_withdrawal")),
    )
    op.create_table(
        "run",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("campaign_id", sa.Integer(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("mode", sa.String(length=200), nullable=False),
        sa.Column("group", sa.String(length=200), nullable=False),
        sa.Column("channels", sa.JSON(), nullable=False),
        sa.Column("load_ohms", sa.Double(), nullable=False),
        sa.Column("bridged", sa.Boolean(), nullable=False),
        sa.Column("tone_hz", sa.Double(), nullable=False),
        sa.Column("supply_volts", sa.Double(), nullable=False),
        sa.Column("companions", sa.JSON(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["campaign_id"], ["campaign.id"], name=op.f("fk_run_campaign_id_campaign")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_run")),
        sa.UniqueConstraint("campaign_id", "position", name=op.f("uq_run_campaign_id")),
    )
    with op.batch_alter_table("run", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_run_campaign_id"), ["campaign_id"], unique=False)

    op.create_table(
        "attempt",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("reason", sa.String(length=200), nullable=False),
        sa.Column("started_by", sa.String(length=200), nullable=False),
        sa.Column("started_at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["run.id"], name=op.f("fk_attempt_run_id_run")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_attempt")),
        sa.UniqueConstraint("run_id", "number", name=op.f("uq_attempt_run_id")),
    )
    with op.batch_alter_table("attempt", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_attempt_run_id"), ["run_id"], unique=False)

    op.create_table(
        "attempt_ending",
        sa.Column("attempt_id", sa.Integer(), nullable=False),
        sa.Column("end", sa.String(length=200), nullable=False),
        sa.Column("fault", sa.Text(), nullable=False),
        sa.Column("ended_at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.Column("seconds", sa.Double(), nullable=False),
        sa.Column("start_volts", sa.Double(), nullable=True),
        sa.Column("level_dbv", sa.Double(), nullable=True),
        sa.Column("bracket_db", sa.Double(), nullable=True),
        sa.Column("supply_volts", sa.Double(), nullable=True),
        sa.Column("supply_lowest", sa.Double(), nullable=True),
        sa.Column("supply_amps", sa.Double(), nullable=True),
        sa.Column("temperature_c", sa.Double(), nullable=True),
        sa.Column("companion_watts", sa.Double(), nullable=True),
        sa.Column("tripped_watts", sa.Double(), nullable=True),
        sa.ForeignKeyConstraint(["attempt_id"], ["attempt.id"], name=op.f("fk_attempt_ending_attempt_id_attempt")),
        sa.PrimaryKeyConstraint("attempt_id", name=op.f("pk_attempt_ending")),
    )
    op.create_table(
        "capture_file",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("attempt_id", sa.Integer(), nullable=False),
        sa.Column("path", sa.String(length=200), nullable=False),
        sa.Column("sha256", sa.String(length=200), nullable=False),
        sa.Column("bytes", sa.Integer(), nullable=False),
        sa.Column("kept_at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.ForeignKeyConstraint(["attempt_id"], ["attempt.id"], name=op.f("fk_capture_file_attempt_id_attempt")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_capture_file")),
        sa.UniqueConstraint("path", name=op.f("uq_capture_file_path")),
    )
    with op.batch_alter_table("capture_file", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_capture_file_attempt_id"), ["attempt_id"], unique=False)

    op.create_table(
        "reading",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("attempt_id", sa.Integer(), nullable=False),
        sa.Column("channel", sa.Integer(), nullable=False),
        sa.Column("watts", sa.Double(), nullable=False),
        sa.Column("volts_rms", sa.Double(), nullable=False),
        sa.Column("thd_n", sa.Double(), nullable=True),
        sa.Column("thd", sa.Double(), nullable=True),
        sa.Column("load_nominal", sa.Double(), nullable=False),
        sa.Column("load_measured", sa.Double(), nullable=False),
        sa.Column("load_tolerance", sa.Double(), nullable=False),
        sa.ForeignKeyConstraint(["attempt_id"], ["attempt.id"], name=op.f("fk_reading_attempt_id_attempt")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_reading")),
        sa.UniqueConstraint("attempt_id", "channel", name=op.f("uq_reading_attempt_id")),
    )
    with op.batch_alter_table("reading", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_reading_attempt_id"), ["attempt_id"], unique=False)

    op.create_table(
        "step",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("attempt_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(length=200), nullable=False),
        sa.Column("at_seconds", sa.Double(), nullable=False),
        sa.Column("data", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["attempt_id"], ["attempt.id"], name=op.f("fk_step_attempt_id_attempt")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_step")),
        sqlite_autoincrement=True,
    )
    with op.batch_alter_table("step", schema=None) as batch_op:
        batch_op.create_index("ix_step_attempt_id_id", ["attempt_id", "id"], unique=False)


def downgrade() -> None:
    with op.batch_alter_table("step", schema=None) as batch_op:
        batch_op.drop_index("ix_step_attempt_id_id")

    op.drop_table("step")
    with op.batch_alter_table("reading", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_reading_attempt_id"))

    op.drop_table("reading")
    with op.batch_alter_table("capture_file", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_capture_file_attempt_id"))

    op.drop_table("capture_file")
    op.drop_table("attempt_ending")
    with op.batch_alter_table("attempt", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_attempt_run_id"))

    op.drop_table("attempt")
    with op.batch_alter_table("run", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_run_campaign_id"))

    op.drop_table("run")
    op.drop_table("claim_withdrawal")
    with op.batch_alter_table("campaign", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_campaign_unit_id"))

    op.drop_table("campaign")
    with op.batch_alter_table("unit", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_unit_model_id"))

    op.drop_table("unit")
    with op.batch_alter_table("claim", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_claim_model_id"))

    op.drop_table("claim")
    with op.batch_alter_table("channel_group", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_channel_group_model_id"))

    op.drop_table("channel_group")
    with op.batch_alter_table("model", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_model_series_id"))

    op.drop_table("model")
    op.drop_table("series")
    with op.batch_alter_table("audit_entry", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_audit_entry_subject"))

    op.drop_table("audit_entry")
