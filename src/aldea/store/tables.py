"""The tables, as SQLAlchemy sees them; the migrations make them, a test holds both together."""

from sqlalchemy import (
    BigInteger,
    Boolean,
    Column,
    Double,
    ForeignKey,
    ForeignKeyConstraint,
    Integer,
    LargeBinary,
    MetaData,
    Table,
    Text,
    UniqueConstraint,
    text,
)

metadata = MetaData()

# All instants are UTC epoch milliseconds, like everywhere in the core.

account = Table(
    "account",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("name", Text, nullable=False, unique=True),
    Column("password_hash", Text, nullable=False),
    Column("created_ms", BigInteger, nullable=False),
)

house = Table(
    "house",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("slug", Text, nullable=False, unique=True),
    Column("now_ms", BigInteger),  # fixed for a house of records only; null: the wall clock
    Column("created_ms", BigInteger, nullable=False),
)

membership = Table(
    "membership",
    metadata,
    Column("house_id", ForeignKey("house.id"), primary_key=True),
    Column("account_id", ForeignKey("account.id"), primary_key=True),
    Column("role", Text, nullable=False),
)

web_session = Table(
    "web_session",
    metadata,
    Column("token_sha256", Text, primary_key=True),
    Column("account_id", ForeignKey("account.id"), nullable=False),
    Column("form_token", Text, nullable=False),
    Column("created_ms", BigInteger, nullable=False),
    Column("seen_ms", BigInteger, nullable=False),
    Column("ends_ms", BigInteger, nullable=False),
)

sign_in_attempt = Table(
    "sign_in_attempt",
    metadata,
    Column("id", BigInteger, primary_key=True),
    Column("name", Text, nullable=False),
    Column("address", Text, nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("good", Boolean, nullable=False),
)

plan_draft = Table(
    "plan_draft",
    metadata,
    Column("house_id", ForeignKey("house.id"), primary_key=True),
    Column("version", Integer, nullable=False),
    Column("document", Text, nullable=False),
    Column("changed_ms", BigInteger, nullable=False),
    Column("changed_by", ForeignKey("account.id"), nullable=False),
    Column("step", Integer, nullable=False, server_default=text("0")),
    Column("sha256", Text, nullable=False),  # of the document's text
)

plan_step = Table(
    "plan_step",
    metadata,
    Column("house_id", ForeignKey("house.id"), primary_key=True),
    Column("step", Integer, primary_key=True),
    Column("document", Text, nullable=False),
    Column("what", Text, nullable=False),
    Column("by_id", ForeignKey("account.id"), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
)

draft_version = Table(  # which step a version stood at: what an edit was made on
    "draft_version",
    metadata,
    Column("house_id", ForeignKey("house.id"), primary_key=True),
    Column("version", Integer, primary_key=True),
    Column("step", Integer, nullable=False),
)

plan_revision = Table(
    "plan_revision",
    metadata,
    Column("house_id", ForeignKey("house.id"), primary_key=True),
    Column("number", Integer, primary_key=True),
    Column("document", Text, nullable=False),
    Column("sha256", Text, nullable=False),
    Column("author_id", ForeignKey("account.id"), nullable=False),
    Column("reason", Text, nullable=False),
    Column("at_ms", BigInteger, nullable=False),
)

series = Table(
    "series",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("house_id", ForeignKey("house.id"), nullable=False),
    Column("probe", Text, nullable=False),
    Column("version", Integer, nullable=False, server_default=text("0")),
    Column("count", BigInteger, nullable=False, server_default=text("0")),
    Column("first_ms", BigInteger),
    Column("last_ms", BigInteger),
    Column("rewritten", Integer, nullable=False, server_default=text("0")),  # a version
    UniqueConstraint("house_id", "probe"),
)

reading = Table(  # partitioned by month; the partitions are made as readings come
    "reading",
    metadata,
    Column("series_id", Integer, nullable=False, primary_key=True),
    Column("t_ms", BigInteger, nullable=False, primary_key=True),
    Column("value", Double, nullable=False),
)

import_run = Table(
    "import_run",
    metadata,
    Column("id", BigInteger, primary_key=True),
    Column("house_id", ForeignKey("house.id"), nullable=False),
    Column("account_id", ForeignKey("account.id"), nullable=False),
    Column("probe", Text, nullable=False),
    Column("file_name", Text, nullable=False),
    Column("size_bytes", BigInteger, nullable=False),
    Column("options", Text, nullable=False),
    Column("state", Text, nullable=False),
    Column("done_share", Double, nullable=False, server_default=text("0")),
    Column("report", Text),
    Column("refusal", Text),
    Column("wanted_stop", Boolean, nullable=False, server_default=text("false")),
    Column("created_ms", BigInteger, nullable=False),
    Column("upload_of", ForeignKey("import_run.id")),
)

assign_run = Table(
    "assign_run",
    metadata,
    Column("id", BigInteger, primary_key=True),
    Column("house_id", ForeignKey("house.id"), nullable=False),
    Column("account_id", ForeignKey("account.id"), nullable=False),
    Column("version_read", Integer, nullable=False),
    Column("redeal", Boolean, nullable=False),
    Column("state", Text, nullable=False),
    Column("doing", Text, nullable=False, server_default=""),
    Column("done_share", Double, nullable=False, server_default=text("0")),
    Column("refusal", Text, nullable=False, server_default=""),
    Column("conflict", Text),
    Column("wanted_stop", Boolean, nullable=False, server_default=text("false")),
    Column("at_ms", BigInteger, nullable=False),
)

reading_change = Table(
    "reading_change",
    metadata,
    Column("id", BigInteger, primary_key=True),
    Column("house_id", ForeignKey("house.id"), nullable=False),
    Column("probe", Text, nullable=False),
    Column("import_id", ForeignKey("import_run.id")),
    Column("account_id", ForeignKey("account.id"), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("reason", Text, nullable=False, server_default=""),
    Column("added", BigInteger, nullable=False),
    Column("removed", BigInteger, nullable=False),
    Column("packed", LargeBinary),
    Column("undone_ms", BigInteger),
)

bench_draft = Table(
    "bench_draft",
    metadata,
    Column("house_id", ForeignKey("house.id"), primary_key=True),
    Column("probe", Text, primary_key=True),
    Column("fields", Text, nullable=False),
    Column("stated_by", ForeignKey("account.id"), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
)

calibration_pair = Table(
    "calibration_pair",
    metadata,
    Column("id", BigInteger, primary_key=True),
    Column("house_id", ForeignKey("house.id"), nullable=False),
    Column("probe", Text, nullable=False),
    Column("medium", Text),
    Column("approach", Text, nullable=False),
    Column("temp_degc", Double, nullable=False),
    Column("reference", Double, nullable=False),
    Column("reference_expanded", Double, nullable=False),
    Column("reading", Double, nullable=False),
    Column("detail", Text, nullable=False, server_default=""),
    Column("taken_by", ForeignKey("account.id"), nullable=False),
    Column("taken_ms", BigInteger, nullable=False),
    Column("withdrawn_ms", BigInteger),
    Column("certificate", Integer),
)

bench_recording = Table(
    "bench_recording",
    metadata,
    Column("id", BigInteger, primary_key=True),
    Column("house_id", ForeignKey("house.id"), nullable=False),
    Column("bench", Text, nullable=False),
    Column("subject", Text, nullable=False),
    Column("fields", Text, nullable=False),
    Column("found", Text, key="summary", nullable=False),
    Column("taken_by", ForeignKey("account.id"), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("circuit", Text, nullable=False, server_default=""),
)

certificate = Table(
    "certificate",
    metadata,
    Column("house_id", ForeignKey("house.id"), primary_key=True),
    Column("number", Integer, primary_key=True),
    Column("probe", Text, nullable=False),
    Column("document", Text, nullable=False),
    Column("sha256", Text, nullable=False),
    Column("signed_by", ForeignKey("account.id"), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("due_ms", BigInteger, nullable=False),
)

certificate_in_place = Table(  # the second stage of a certificate: one comparison where it hangs
    "certificate_in_place",
    metadata,
    Column("house_id", Integer, primary_key=True),
    Column("number", Integer, primary_key=True),
    Column("reference", Double, nullable=False),
    Column("reference_expanded", Double, nullable=False),
    Column("reading", Double, nullable=False),
    Column("checked_by", ForeignKey("account.id"), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    ForeignKeyConstraint(["house_id", "number"], ["certificate.house_id", "certificate.number"]),
)

log_book = Table(
    "log_book",
    metadata,
    Column("id", BigInteger, primary_key=True),
    Column("house_id", ForeignKey("house.id"), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("account_id", ForeignKey("account.id")),
    Column("what", Text, nullable=False),
)
