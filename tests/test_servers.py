"""What only servers can do to tables: refuse, lose the connection, be used by others; and what may not come of it."""

from __future__ import annotations

import json
import random
import re
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import closing, suppress
from pathlib import Path

import psycopg
import pymysql
import pytest

from conftest import ONE_IN, Ran, hemplit, tries
from places import MariadbPlace, Place, PostgresqlPlace, as_text

Server = PostgresqlPlace | MariadbPlace
DESIGN = "boatyard.design.toml"


@pytest.fixture(scope="module")
def boatyard(tmp_path_factory: pytest.TempPathFactory, yard: Path) -> Path:
    """The demo sheets with a design for all of them."""
    ran = hemplit("draft", "jobs.csv", "parts-used.csv", "crew-roster.xlsx", "haul-outs", "--out", DESIGN, folder=yard)
    assert ran.code < 2, ran.err
    return yard


@pytest.fixture(scope="module")
def small(tmp_path_factory: pytest.TempPathFactory, yard: Path) -> Path:
    """The first sixty jobs, with a design: enough tables for what is tried many times."""
    folder = tmp_path_factory.mktemp("small")
    lines = (yard / "jobs.csv").read_bytes().splitlines(keepends=True)
    (folder / "jobs.csv").write_bytes(b"".join(lines[:61]))
    assert hemplit("draft", "jobs.csv", "--out", DESIGN, folder=folder).code < 2
    return folder


def load(place: Place, folder: Path, *how: str) -> Ran:
    return hemplit("load", DESIGN, "--into", place.text, *how, folder=folder)


def prove(place: Place, folder: Path) -> Ran:
    return hemplit("prove", DESIGN, "--into", place.text, folder=folder)


def test_a_word_of_the_database_is_a_name_all_the_same(server: Server, tmp_path: Path) -> None:
    listed = "pg_get_keywords()" if isinstance(server, PostgresqlPlace) else "information_schema.KEYWORDS"
    words = sorted({str(word).lower() for (word,) in server.rows(f"SELECT word FROM {listed}")})
    words = [word for word in words if re.fullmatch("[a-z][a-z_0-9]*", word)]
    assert len(words) > 400
    (tmp_path / "words.csv").write_text(",".join(words) + "\n" + ",".join(map(str, range(len(words)))) + "\n")
    lines = [
        "format = 2\n[sheets.words]\nfile = 'words.csv'",
        f"steps = [{{ do = 'read the header', names = {words} }}]",
        f"[tables.select]\nsheet = 'words'\npurpose = 'main'\neach_row = true\nkey = ['{words[0]}']",
        *(f"columns.{word} = {{ from = '{word}', type = 'whole number' }}" for word in words),
    ]
    (tmp_path / DESIGN).write_text("\n".join(lines))
    ran = load(server, tmp_path)
    assert "Verified" in ran.out, ran.err


def test_odd_signs_in_a_design_mean_themselves(server: Server, tmp_path: Path) -> None:
    said = ["it's", "C:\\new", "50%"]
    lines = "".join(f"{number},{text},{number % 3}\n" for number, text in enumerate(said * 4))
    (tmp_path / "marks.csv").write_text("No,mark,Mark\n" + lines)
    lines = [
        "format = 2\n[sheets.marks]\nfile = 'marks.csv'",
        "steps = [{ do = 'read the header', names = ['No', 'mark', 'Mark'] }]",
        "[tables.marks]\nsheet = 'marks'\npurpose = 'main'\neach_row = true\nkey = ['no']",
        f"rules = [{{ columns = ['said'], rule = 'allowed', values = {json.dumps(said)} }}]",
        "columns.no = { from = 'No', type = 'whole number' }\ncolumns.said = { from = 'mark', type = 'text' }",
        "columns.level = { from = 'Mark', type = 'whole number' }",
    ]
    (tmp_path / DESIGN).write_text("\n".join(lines))
    ran = load(server, tmp_path)
    assert "Verified" in ran.out, ran.err
    headers, rows = server.view("marks_sheet")
    assert headers == ["No", "mark", "Mark (2)"] and [row[1] for row in rows] == said * 4
    with pytest.raises((psycopg.Error, pymysql.Error)):
        server.run("UPDATE marks SET said = 'C:new'")


def test_all_places_hold_the_same(boatyard: Path, server: Server, tmp_path: Path) -> None:
    file = Place(tmp_path)
    assert "Verified" in load(file, boatyard).out
    assert "Verified" in load(server, boatyard).out
    assert "Verified" in prove(server, boatyard).out
    assert sorted(server.listed()) == sorted(file.listed())
    for name, kind in file.listed():
        if not name.startswith("hemplit_"):
            (headers, rows), (others, told) = file.view(name), server.view(name)
            assert headers == others
            assert sorted(map(as_text, rows)) == sorted(map(as_text, told)), (kind, name)


TRADES = ("rigger", "painter")
FIRST = "(SELECT * FROM (SELECT min(job_no) FROM jobs) AS first)"
REFUSED = {
    "a reference to nobody": "UPDATE jobs SET boat_reg = 'nobody' WHERE job_no = {first}",
    "a blank that is required": "UPDATE jobs SET opened = NULL",
    "a key twice": "INSERT INTO statuses SELECT * FROM statuses",
    "a name twice": "UPDATE statuses SET name = 'open'",
    "who is spoken of": "DELETE FROM boats",
    "no such day": "UPDATE jobs SET opened = '2026-02-30'",
}


def test_the_database_keeps_the_rules_itself(boatyard: Path, server: Server) -> None:
    load(server, boatyard)
    for said, statement in REFUSED.items():
        with pytest.raises((psycopg.Error, pymysql.Error)):
            server.run(
                *(["SET sql_mode = 'STRICT_ALL_TABLES'"] if server.mark == "`" else []), statement.format(first=FIRST)
            )
            pytest.fail(said)


TAMPERED = {
    "a cell": "UPDATE jobs SET labour_hours = labour_hours + 0.25 WHERE job_no = {first}",
    "a blank": "UPDATE jobs SET remarks = NULL WHERE remarks IS NOT NULL",
    "a letter": "UPDATE boats SET name = concat(name, ' ')",
    "a row less": "DELETE FROM job_crews WHERE job_no = {first}",
    "a row more": "INSERT INTO statuses (status_id, name) VALUES (99, 'Wick')",
    "a column more": "ALTER TABLE statuses ADD COLUMN more int",
    "a wider type": "{wider}",
    "no reference": "{unreferred}",
    "no index": "{unindexed}",
    "no view": "DROP VIEW jobs_sheet",
    "another view": "CREATE OR REPLACE VIEW jobs_crew_sheet AS {view} WHERE 1 = 1",
    "a comment": "{comment}",
    "not in the list": "DELETE FROM hemplit_objects WHERE name = 'jobs'",
    "otherwise in the list": "UPDATE hemplit_objects SET held = concat(held, ' ') WHERE name = 'jobs'",
    "another statement in it": "UPDATE hemplit_objects SET statement = concat(statement, ' ') WHERE name = 'jobs'",
    "another file": "UPDATE hemplit_loads SET file = 'other.csv'",
    "a table less": "DROP TABLE hull_classes {cascade}",
}
IN_POSTGRESQL = {
    "wider": "ALTER TABLE jobs ALTER COLUMN labour_hours TYPE numeric(30, 2)",
    "unreferred": "ALTER TABLE boats DROP CONSTRAINT fk_boats_owner_id",
    "unindexed": "DROP INDEX ix_jobs_boat_reg",
    "comment": "COMMENT ON COLUMN jobs.opened IS 'other'",
    "cascade": "CASCADE",
}
IN_MARIADB = {
    "wider": "ALTER TABLE jobs MODIFY labour_hours decimal(30, 2) NOT NULL",
    "unreferred": "ALTER TABLE boats DROP FOREIGN KEY fk_boats_owner_id",
    "unindexed": "ALTER TABLE jobs DROP INDEX ix_jobs_boat_reg, ADD INDEX other (boat_reg)",
    "comment": "ALTER TABLE jobs COMMENT 'other'",
    "cascade": "",
}


@pytest.mark.slow
def test_whatever_is_changed_is_found(small: Path, server: Server) -> None:
    words = IN_MARIADB if isinstance(server, MariadbPlace) else IN_POSTGRESQL
    turn = int(isinstance(server, MariadbPlace))
    for said, statement in [*TAMPERED.items()] if ONE_IN == 1 else [*TAMPERED.items()][turn::2]:
        server.empty()
        assert "Verified" in load(server, small).out
        held = dict(server.rows("SELECT name, statement FROM hemplit_objects"))
        view = held["jobs_crew_sheet"].partition(" AS\n")[2]
        if "{wider}" in statement and isinstance(server, PostgresqlPlace):
            server.run("DROP VIEW jobs_sheet, jobs_named")
        server.run(statement.format(**words, view=view, first=FIRST))
        ran = prove(server, small)
        assert (ran.code, "NOT verified" in ran.out) == (1, True), (said, ran.out, ran.err)


def test_another_design_is_not_what_was_loaded(small: Path, server: Server) -> None:
    load(server, small)
    text = (small / DESIGN).read_text(encoding="utf-8")
    try:
        (small / DESIGN).write_text(re.sub(r"(columns\.opened .*), required = true", r"\1", text), encoding="utf-8")
        ran = prove(server, small)
        assert (ran.code, "NOT verified" in ran.out, "table jobs" in ran.out) == (1, True, True), ran.out
    finally:
        (small / DESIGN).write_text(text, encoding="utf-8")


def test_no_number_is_rounded_or_cut(server: Server, tmp_path: Path) -> None:
    """Neither by what the first sheet says, nor by what a later one says that the columns were not made for."""
    header = "Job,Boat,Status,Cost\n"
    rows = [
        f"{4000 + at},MQ-{at % 7},{'open' if at % 3 else 'done'},{at * at * 7 % 97}.{at * 3 % 10}5" for at in range(30)
    ]
    (tmp_path / "may.csv").write_text(header + "\n".join(rows) + "\n", encoding="utf-8")
    hemplit("draft", "may.csv", "--out", "may.design.toml", folder=tmp_path)
    assert "Verified" in hemplit("load", "may.design.toml", "--into", server.text, folder=tmp_path).out
    for row, said in {
        "5001,MQ-3,open,12.345": "holds 2 decimal places there, and a new row has '12.345'",
        "4000000001,MQ-3,open,12.35": "and a new row has '4000000001'",
    }.items():
        (tmp_path / "june.csv").write_text(f"{header}{row}\n", encoding="utf-8")
        before = server.state()
        ran = hemplit("topup", "may.design.toml", "june.csv", "--into", server.text, folder=tmp_path)
        assert (ran.code, said in ran.err) == (2, True), ran.out + ran.err
        assert server.state() == before
    (tmp_path / "may.csv").write_text(header + "\n".join([*rows, "5001,MQ-3,open,12.345"]) + "\n", encoding="utf-8")
    ran = hemplit("load", "may.design.toml", "--into", server.text, "--replace", folder=tmp_path)
    assert ("Verified" in ran.out, float(server.rows("SELECT max(cost) FROM jobs WHERE job = 5001")[0][0])) == (
        True,
        12.345,
    )


def test_new_rows_may_refer_to_later_ones(server: Server, tmp_path: Path) -> None:
    header = "Crew No,Name,Supervisor No,Trade\n"
    crew = [
        f"C-{101 + at},Name{at} Sund{at},C-{101 + at * 5 % 11},{'rigger' if at % 3 else 'painter'}" for at in range(12)
    ]
    (tmp_path / "crew.csv").write_text(header + "\n".join(crew) + "\n", encoding="utf-8")
    hemplit("draft", "crew.csv", "--out", "crew.design.toml", folder=tmp_path)
    assert "supervisor_no" in (tmp_path / "crew.design.toml").read_text(encoding="utf-8")
    assert "Verified" in hemplit("load", "crew.design.toml", "--into", server.text, folder=tmp_path).out
    (tmp_path / "new.csv").write_text(f"{header}C-201,Ines Falk,C-202,rigger\nC-202,Aldo Keel,C-101,rigger\n")
    ran = hemplit("topup", "crew.design.toml", "new.csv", "--into", server.text, folder=tmp_path)
    assert "2 new rows added" in ran.out, ran.err
    assert "Verified" in hemplit("prove", "crew.design.toml", "--into", server.text, folder=tmp_path).out


@pytest.mark.slow
def test_what_others_keep_there_stays(boatyard: Path, server: Server) -> None:
    load(server, boatyard)
    server.run("CREATE TABLE diary (day int)", "INSERT INTO diary VALUES (7)")
    assert "Verified" in load(server, boatyard, "--replace").out
    assert server.rows("SELECT * FROM diary") == [(7,)]
    server.run("CREATE VIEW our_boats AS SELECT name FROM boats")
    before = server.state()
    ran = load(server, boatyard, "--replace")
    assert (ran.code, "our_boats" in ran.err, "Hemplit did not make" in ran.err) == (2, True, True), ran.err
    assert server.state() == before


def test_what_is_in_the_way_is_never_replaced(boatyard: Path, server: Server) -> None:
    if isinstance(server, PostgresqlPlace):
        server.run(f"CREATE SCHEMA {server.schema}")
    server.run("CREATE TABLE boats (name int)", "INSERT INTO boats VALUES (7)")
    before = server.state()
    ran = load(server, boatyard, "--replace")
    assert (ran.code, "'boats' that Hemplit did not make" in ran.err) == (2, True), ran.err
    assert server.state() == before


@pytest.mark.slow
def test_of_loads_at_once_one_wins_and_the_others_say_so(boatyard: Path, server: Server) -> None:
    runs = [_started("load", DESIGN, "--into", server.text, folder=boatyard) for _ in range(3)]
    ended = [(process.communicate()[1], process.returncode) for process in runs]
    assert sorted(code for _, code in ended) == [1, 2, 2], ended  # boats that are typed otherwise have to be looked at
    for said, code in ended:
        assert code == 1 or re.search("another load is writing|loaded into it in the meantime|exists already", said), (
            said
        )
    assert "Verified" in prove(server, boatyard).out


def _started(*arguments: str, folder: Path) -> subprocess.Popen[str]:
    command = [sys.executable, "-m", "hemplit", *arguments]
    return subprocess.Popen(command, cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True)


def _killed(process: subprocess.Popen[str], _: Server) -> None:
    process.send_signal(signal.SIGKILL)


def _cut_off(_: subprocess.Popen[str], server: Server) -> None:
    """Ends the connection from the side of the server."""
    with closing(server.connect()) as connection, connection.cursor() as cursor:
        if isinstance(server, PostgresqlPlace):
            cursor.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_locks JOIN pg_class ON relation = pg_class.oid "
                "JOIN pg_namespace ON relnamespace = pg_namespace.oid "
                f"WHERE nspname = '{server.schema}' AND pid <> pg_backend_pid()"
            )
            return
        cursor.execute("SELECT ID FROM information_schema.PROCESSLIST WHERE DB = %s", (server.database,))
        for (number,) in cursor.fetchall():
            if number != connection.thread_id():
                with suppress(pymysql.Error):  # it was done by then
                    cursor.execute(f"KILL {number}")


@pytest.mark.slow
@pytest.mark.parametrize(("end", "moments"), [(_killed, 7), (_cut_off, 3)])
def test_however_a_load_ends_the_tables_are_old_or_new(
    small: Path, server: Server, end: Callable[[subprocess.Popen[str], Server], None], moments: int
) -> None:
    """At moments between the first statement and the last, over what is there and, at first, over nothing."""
    chance = random.Random(5)
    empty = _state(server)
    started = time.monotonic()
    load(server, small)
    took = time.monotonic() - started
    full = _state(server)
    server.empty()
    for moment in range(tries(moments)):
        process = _started("load", DESIGN, "--into", server.text, "--replace", folder=small)
        time.sleep(max(0.0, chance.uniform(0.3, 1.3) * took))
        end(process, server)
        process.communicate()
        found = _settled(server)
        assert found in (empty, full), (moment, server.listed())
    assert "Verified" in load(server, small, "--replace").out
    assert _state(server) == full


def _state(server: Server) -> list[object]:
    """All that is there; references that were made beside others of the same name have a number more."""
    return server.state(lambda row: re.sub(r"\b(fk_\w+)_2\b", r"\1", repr(row)))


def _settled(server: Server) -> list[object]:
    """What is there once the server has done what it was told."""
    for _ in range(100):
        if isinstance(server, MariadbPlace):
            busy = server.rows(
                f"SELECT 1 FROM information_schema.PROCESSLIST WHERE DB = '{server.database}' AND ID <> CONNECTION_ID()"
            )
        else:
            busy = server.rows("SELECT 1 FROM pg_stat_activity WHERE application_name = 'hemplit' AND state <> 'idle'")
        if not busy:
            break
        time.sleep(0.1)
    return _state(server)


def test_a_database_is_looked_at(boatyard: Path, server: Server) -> None:
    address, _, schema = server.text.partition("#")
    where = [address, *(["--schema", schema] if schema else [])]
    ran = hemplit("look", *where, folder=boatyard)
    assert (ran.code, "Hemplit has loaded nothing" in ran.err) == (2, True), ran.err
    load(server, boatyard)
    ran = hemplit("look", *where, folder=boatyard)
    assert ran.code == 0, ran.err
    for said in ("16 tables, 16 views", "jobs  400 rows → boats, statuses, works", "4001", "view jobs_sheet"):
        assert said in ran.out, ran.out


def test_a_schema_that_may_not_be_used_is_said_to_be_so(small: Path, server: Server) -> None:
    """To one without the right to use it, its tables seem not to exist."""
    if not isinstance(server, PostgresqlPlace):
        pytest.skip("only PostgreSQL has schemas that may be seen and not used")
    assert load(server, small).code == 0
    server.run("DROP ROLE IF EXISTS hemplit_test_reader; CREATE ROLE hemplit_test_reader LOGIN")
    try:
        address = re.sub(r"://([^@/]*@)?", "://hemplit_test_reader@", server.text)
        ran = hemplit("prove", DESIGN, "--into", address, folder=small)
        assert (ran.code, f"you may not use the schema '{server.schema}'" in ran.err) == (2, True), ran.err
    finally:
        server.run("DROP ROLE hemplit_test_reader")


def test_a_password_is_shown_nowhere(boatyard: Path, tmp_path: Path) -> None:
    for scheme in ("postgresql", "mariadb", "oracle"):
        for address in (
            f"{scheme}://ada:geheim@127.0.0.1:1/boats",
            f"{scheme}://ada@127.0.0.1:1/boats?password=geheim",
        ):
            for command in (["load", DESIGN], ["prove", DESIGN], ["topup", DESIGN, "jobs.csv"], ["load", "jobs.csv"]):
                ran = hemplit(*command, "--into", address, folder=boatyard)
                assert (ran.code, "geheim" in ran.out + ran.err) == (2, False), ran.err
            assert "geheim" not in hemplit("look", address, folder=boatyard).err


def test_a_table_of_a_server_is_a_sheet(boatyard: Path, server: Server, tmp_path: Path) -> None:
    """Also where the password stands in the address: the design has it not."""
    load(server, boatyard)
    schema = server.schema if isinstance(server, PostgresqlPlace) else server.database
    address = f"{server.text.partition('#')[0]}#{schema}.jobs_sheet"
    ran = hemplit("look", address, folder=tmp_path)
    assert (ran.code, "400 rows" in ran.out) == (0, True), ran.out + ran.err
    ran = hemplit("load", address, "--into", "again.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.err
    assert "Verified" in hemplit("prove", "again.design.toml", "--into", "again.sqlite", folder=tmp_path).out
    ran = hemplit("look", address.replace("jobs_sheet", "jobs_shee"), folder=tmp_path)
    assert (ran.code, "did you mean 'jobs_sheet'?" in ran.err) == (2, True), ran.err
    ran = hemplit("topup", "again.design.toml", address, "--into", "again.sqlite", folder=tmp_path)
    assert (ran.code, "not added from there" in ran.err) == (2, True), ran.err
    if isinstance(server, PostgresqlPlace):  # which asks for no password here
        secret = address.replace("root@", "root:geheim@", 1)
        assert hemplit("draft", secret, "--out", "secret.design.toml", folder=tmp_path).code < 2
        assert "geheim" not in (tmp_path / "secret.design.toml").read_text(encoding="utf-8")
