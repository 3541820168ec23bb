"""Targets that are files: scripts, workbooks and folders, each read by another program than the one that wrote it."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

import psycopg
import pymysql
import pytest

from conftest import hemplit
from places import MariadbPlace, Place, PostgresqlPlace, as_text

DESIGN = "boatyard.design.toml"


@pytest.fixture(scope="module")
def boatyard(tmp_path_factory: pytest.TempPathFactory, yard: Path) -> Path:
    """The demo sheets with a design for all of them, and what it gives in a database file."""
    ran = hemplit("draft", "jobs.csv", "parts-used.csv", "crew-roster.xlsx", "haul-outs", "--out", DESIGN, folder=yard)
    assert ran.code < 2, ran.err
    assert "Verified" in hemplit("load", DESIGN, "--into", "plain.sqlite", "--replace", folder=yard).out
    return yard


def run_script(place: Place, text: str) -> None:
    """Runs a script as the database's own shell would."""
    if isinstance(place, PostgresqlPlace):
        with psycopg.connect(
            place.text.partition("#")[0], options=f"-c search_path={place.schema}", autocommit=True
        ) as one:
            one.execute(f"CREATE SCHEMA IF NOT EXISTS {place.schema}")
            one.execute(text)
    elif isinstance(place, MariadbPlace):
        flags = pymysql.constants.CLIENT.MULTI_STATEMENTS
        with closing(place.connect(client_flag=flags)) as one, one.cursor() as cursor:
            cursor.execute(text)
            while cursor.nextset():
                pass
    else:
        with closing(sqlite3.connect(place.text)) as one:
            one.executescript(text)


def word_of(place: Place) -> str:
    return type(place).__name__.removesuffix("Place").lower() or "sqlite"


def test_a_script_gives_what_a_load_gives_and_may_run_again(boatyard: Path, place: Place, tmp_path: Path) -> None:
    script = tmp_path / "yard.sql"
    ran = hemplit("load", DESIGN, "--into", script, "--dialect", word_of(place), folder=boatyard)
    assert "Verified" in ran.out, ran.err
    plain = Place(boatyard, "plain.sqlite")
    for _ in range(2):
        run_script(place, script.read_text(encoding="utf-8"))
        for name, _ in plain.listed():
            if not name.startswith("hemplit_"):
                (headers, rows), (others, told) = plain.view(name), place.view(name)
                assert (headers, sorted(map(as_text, rows))) == (others, sorted(map(as_text, told))), name
    assert "Verified" in hemplit("prove", DESIGN, "--into", script, folder=boatyard).out


FILES = ["yard.sql", "yard.xlsx"]


@pytest.mark.parametrize("name", FILES)
def test_it_is_proven_and_replaced_only_if_it_is_ours(name: str, boatyard: Path, tmp_path: Path) -> None:
    target = tmp_path / name
    ran = hemplit("load", DESIGN, "--into", target, folder=boatyard)
    assert ("Verified" in ran.out, "Not proven" in ran.err) == (True, True), ran.err
    first = target.read_bytes()
    ran = hemplit("load", DESIGN, "--into", target, folder=boatyard)
    assert (ran.code, "exists already" in ran.err, target.read_bytes()) == (2, True, first)
    assert "Verified" in hemplit("load", DESIGN, "--into", target, "--replace", folder=boatyard).out
    assert target.read_bytes() == first
    assert "Verified" in hemplit("prove", DESIGN, "--into", target, folder=boatyard).out
    ran = hemplit("topup", DESIGN, "jobs.csv", "--into", target, folder=boatyard)
    assert (ran.code, "cannot be added to" in ran.err) == (2, True), ran.err
    target.write_bytes(b"a diary")
    for how in ([], ["--replace"]):
        ran = hemplit("load", DESIGN, "--into", target, *how, folder=boatyard)
        assert (ran.code, target.read_bytes()) == (2, b"a diary"), ran.err
    assert "did not make" in hemplit("prove", DESIGN, "--into", target, folder=boatyard).err


def test_whatever_is_changed_in_a_script_is_found(boatyard: Path, tmp_path: Path) -> None:
    script = tmp_path / "yard.sql"
    hemplit("load", DESIGN, "--into", script, folder=boatyard)
    text = script.read_text(encoding="utf-8")
    for old, new in {
        "'open'": "'opem'",
        "'hull scrape', 38.5": "'hull scrape', 38.4",
        "NOT NULL": "",
        "LEFT OUTER JOIN": "JOIN",
        "COMMIT": "ROLLBACK",
        "(1, 'Aldersby')": "(1, 'Aldersby'), (99, 'Wick')",
        "FOREIGN KEY(owner_id) REFERENCES owners (owner_id)": "CHECK (1)",
    }.items():
        changed = text.replace(old, new, 1)
        if changed == text:
            continue
        script.write_text(changed, encoding="utf-8")
        ran = hemplit("prove", DESIGN, "--into", script, folder=boatyard)
        assert (ran.code, "NOT verified" in ran.out) == (1, True), (old, ran.out)


def test_a_script_of_the_tables_alone_claims_no_rows(boatyard: Path, tmp_path: Path) -> None:
    script = tmp_path / "yard.sql"
    ran = hemplit("load", DESIGN, "--into", script, "--schema-only", folder=boatyard)
    assert ("INSERT" in script.read_text(encoding="utf-8"), "holds no rows" in ran.err) == (False, True), ran.err
    assert "as stored" not in hemplit("prove", DESIGN, "--into", script, folder=boatyard).out
