"""Studios of several people, saves with keys, deleting with a grace period, limits, and the workers' work in a table of its own.

Photographs and finals move into one table of bytes, which an object store may stand for. The queue that earlier versions took
from a package goes; what waited in it is put into the new one.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"

MOMENT = sa.DateTime(timezone=True)
PHOTO_LIMIT, FINAL_LIMIT, STATES_LIMIT = "20000000000", "10000000000", "200000"


def text(name: str, length: int, default: str | None = "") -> sa.Column:
    return sa.Column(name, sa.String(length), nullable=False, server_default=default)


def moment(name: str, *, nullable: bool = True, default: bool = False) -> sa.Column:
    return sa.Column(name, MOMENT, nullable=nullable, server_default=sa.func.now() if default else None)


def studio() -> sa.Column:
    return sa.Column("studio_id", sa.Uuid, sa.ForeignKey("studios.id"), nullable=False)


def number(name: str, kind, default: str) -> sa.Column:
    return sa.Column(name, kind, nullable=False, server_default=default)


def upgrade() -> None:
    for column in (
        moment("deleted_at"), moment("served_at"), number("photo_limit", sa.BigInteger, PHOTO_LIMIT),
        number("final_limit", sa.BigInteger, FINAL_LIMIT), number("states_limit", sa.Integer, STATES_LIMIT),
    ):  # fmt: skip
        op.add_column("studios", column)
    for column in (
        text("role", 16, "owner"), moment("removed_at"), text("totp_secret", 64), number("totp_step", sa.BigInteger, "0")
    ):  # fmt: skip
        op.add_column("users", column)
    for column in (
        sa.Column("id", sa.Uuid, nullable=False, server_default=sa.text("gen_random_uuid()")),
        moment("made_at", nullable=False, default=True), moment("seen_at", nullable=False, default=True),
        text("address", 64), text("agent", 200),
    ):  # fmt: skip
        op.add_column("sign_ins", column)
    op.create_index("ix_sign_ins_user_id", "sign_ins", ["user_id"])
    op.create_index("ix_sign_in_failures_at", "sign_in_failures", ["at"])
    op.create_table(
        "invitations", sa.Column("token_hash", sa.String(64), primary_key=True), sa.Column("id", sa.Uuid, nullable=False),
        studio(), text("role", 16, None), text("note", 80), text("made_by", 80), moment("created_at", nullable=False),
        moment("expires_at", nullable=False),
    )  # fmt: skip
    op.create_index("ix_invitations_studio_id", "invitations", ["studio_id"])
    op.create_table(
        "password_resets", sa.Column("token_hash", sa.String(64), primary_key=True), studio(),
        sa.Column("user_id", sa.Uuid, sa.ForeignKey("users.id"), nullable=False), moment("expires_at", nullable=False),
    )  # fmt: skip
    op.create_table(
        "passkeys", sa.Column("credential_id", sa.LargeBinary, primary_key=True), studio(),
        sa.Column("user_id", sa.Uuid, sa.ForeignKey("users.id"), nullable=False, index=True),
        sa.Column("public_key", sa.LargeBinary, nullable=False), number("sign_count", sa.BigInteger, "0"), text("name", 80),
        moment("created_at", nullable=False), moment("used_at"),
    )  # fmt: skip
    op.create_table(
        "challenges", sa.Column("challenge", sa.LargeBinary, primary_key=True), moment("expires_at", nullable=False)
    )
    op.create_table(
        "events", sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True), studio(),
        sa.Column("shot_id", sa.Uuid, sa.ForeignKey("shots.id"), index=True), sa.Column("user_id", sa.Uuid), text("who", 80),
        text("kind", 20), text("words", 200), moment("at", nullable=False),
    )  # fmt: skip
    op.create_index("ix_events_studio", "events", ["studio_id", "at"])
    op.create_table(
        "saves", sa.Column("user_id", sa.Uuid, primary_key=True), sa.Column("key", sa.String(64), primary_key=True), studio(),
        sa.Column("answer", JSONB, nullable=False), sa.Column("at", MOMENT, nullable=False, index=True),
    )  # fmt: skip
    op.add_column("jobs", moment("deleted_at"))
    op.add_column("shots", moment("deleted_at"))
    op.add_column("shots", text("window", 40))
    for column in (sa.Column("user_id", sa.Uuid), text("who", 80), text("window", 40)):
        op.add_column("revisions", column)
    op.create_index("ix_revisions_studio_id", "revisions", ["studio_id"])
    for column in (
        sa.Column("id", sa.Uuid, nullable=False, server_default=sa.text("gen_random_uuid()")), text("made_by", 80),
        sa.Column("expires_at", MOMENT, nullable=False, server_default=sa.text("now() + interval '30 days'")),
        number("visits", sa.Integer, "0"), moment("last_visit_at"),
    ):  # fmt: skip
        op.add_column("view_links", column)
    op.create_table(
        "last_pictures", sa.Column("shot_id", sa.Uuid, sa.ForeignKey("shots.id"), primary_key=True), studio(),
        text("key", 80, None), sa.Column("data", sa.LargeBinary, nullable=False),
    )  # fmt: skip
    op.create_table(
        "shared_pictures", sa.Column("studio_id", sa.Uuid, sa.ForeignKey("studios.id"), primary_key=True),
        sa.Column("key", sa.String(80), primary_key=True), text("media_type", 40, None),
        sa.Column("size_bytes", sa.BigInteger, nullable=False), sa.Column("data", sa.LargeBinary, nullable=False),
        sa.Column("used_at", MOMENT, nullable=False, index=True),
    )  # fmt: skip
    _bytes_in_one_table()
    op.add_column("finals", number("attempts", sa.Integer, "0"))
    op.create_table(
        "work", sa.Column("id", sa.Uuid, primary_key=True), studio(), text("lane", 8, None), text("kind", 12, None),
        text("ref", 80, None), sa.Column("payload", JSONB, nullable=False), number("attempts", sa.Integer, "0"),
        text("worker", 80), moment("claimed_until"), moment("created_at", nullable=False),
        sa.UniqueConstraint("studio_id", "kind", "ref"),
    )  # fmt: skip
    op.create_index("ix_work_lane", "work", ["lane", "created_at"])
    op.create_table(
        "workers",
        sa.Column("name", sa.String(80), primary_key=True),
        text("lane", 8, None),
        moment("seen_at", nullable=False),
    )
    op.execute(
        "insert into work (id, studio_id, lane, kind, ref, payload, attempts, worker, created_at) "
        "select gen_random_uuid(), studio_id, 'final', 'final', id::text, '{}', 0, '', created_at from finals "
        "where state in ('waiting', 'working')"
    )
    _old_queue_goes()


def _bytes_in_one_table() -> None:
    op.create_table(
        "blobs", sa.Column("key", sa.String(120), primary_key=True), sa.Column("data", sa.LargeBinary, nullable=False)
    )
    op.execute("insert into blobs (key, data) select 'frames/' || frame_id || '/file', data from frame_files")
    op.add_column("finals", number("size_bytes", sa.BigInteger, "0"))
    for kind in ("png", "exr"):
        op.execute(f"insert into blobs (key, data) select 'finals/' || final_id || '/{kind}', {kind} from final_files")
    op.execute(
        "update finals set size_bytes = length(f.png) + length(f.exr) from final_files f where f.final_id = finals.id"
    )
    op.drop_table("frame_files")
    op.drop_table("final_files")


def _old_queue_goes() -> None:
    for table in ("procrastinate_events", "procrastinate_periodic_defers", "procrastinate_jobs", "procrastinate_workers"):
        op.execute(f"drop table if exists {table} cascade")
    op.execute(
        "do $$ declare each record; begin "
        "for each in select p.oid::regprocedure as signature from pg_proc p join pg_namespace n on n.oid = p.pronamespace "
        "where n.nspname = current_schema() and p.proname like 'procrastinate\\_%' loop "
        "execute 'drop function if exists ' || each.signature || ' cascade'; end loop; "
        "for each in select t.typname from pg_type t join pg_namespace n on n.oid = t.typnamespace "
        "where n.nspname = current_schema() and t.typname like 'procrastinate\\_%' and t.typtype in ('e', 'c') "
        "and not exists (select 1 from pg_class c where c.reltype = t.oid and c.relkind <> 'c') loop "
        "execute 'drop type if exists ' || quote_ident(each.typname) || ' cascade'; end loop; end $$"
    )


def downgrade() -> None:
    raise NotImplementedError("what people kept since cannot be told to an older version; restore a backup instead")
