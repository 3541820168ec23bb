"""How many of a hundred small faults the tests find: each is put into a copy of the code, and the tests run on it.

    python scripts/mutants.py                 all of them, and the share found; takes about half an hour
    python scripts/mutants.py --only proof    those of the files whose names hold this
    python scripts/mutants.py --list          the faults, without running anything

A fault is a place in a file, what stands there, and what is put instead. One that the tests do not find is named: either
a test is weak, or the code is needed for nothing.
"""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).parents[1]
CODE = ROOT / "src" / "hemplit"
#: The tests that are asked for a fault in these files, the quick ones first; each ends at the first failure.
TESTS = {
    "core/draft/feeds": "laws/test_feeds",
    "core/draft/things": "laws/test_feeds test_together",
    "core/draft/mentions": "laws/test_feeds",
    "core/draft/same": "test_same_things",
    "core/draft/links": "laws/test_feeds test_together test_same_things",
    "core/draft/sheets": "test_cases test_together",
    "core/draft/among": "test_together",
    "core/shape/header": "test_topup",
    "core/shape/atoms": "test_together",
    "core/shape/children": "test_drafts",
    "core/tables/names": "test_topup",
    "core/draft/judge": "test_drafts test_cases test_together test_drafts laws/test_worlds laws/test_roles laws/test_lossless laws/test_gaps",
    "core/draft/keys": "test_drafts test_cases test_together laws/test_lossless laws/test_worlds",
    "core/draft/told_further": "test_same_things test_together",
    "core/tables/periods": "test_topup",
    "core/tables/named": "test_topup test_program",
    "core/shape/series": "test_shapes test_topup",
    "core/shape/sideways": "test_shapes test_drafts laws/test_groups laws/test_lossless",
    "core/study/facts": "test_cases",
    "core/draft/assemble": "test_cases test_drafts test_same_things",
    "core/draft/order": "test_same_things test_together laws/test_feeds",
    "core/draft/unite": "test_same_things test_together laws/test_feeds",
    "core/draft/redraft": "test_drafts laws/test_feeds",
    "core/proof/unsaid": "laws/test_feeds test_same_things",
    "core/proof/at_odds": "test_same_things",
    "core/proof/strangers": "laws/test_feeds test_together test_same_things",
    "core/design/feeds": "laws/test_feeds",
    "core/draft": "test_cases test_drafts laws/test_worlds laws/test_roles laws/test_lossless laws/test_gaps",
    "core/theory": "laws/test_dependencies test_drafts",
    "core/shape": "test_later_sheets test_slips test_steps test_shapes test_proof laws/test_lossless laws/test_gaps laws/test_sheets laws/test_files test_ties",
    "core/tables/across": "test_together test_design_edits",
    "core/columns/partners": "test_together laws/test_lossless",
    "core/tables/views": "test_together test_drafts test_design_edits laws/test_lossless laws/test_roles",
    "core/proof/rejoin": "test_proof test_program laws/test_independent_lists laws/test_lossless laws/test_computed laws/test_roles",
    "core/design/check": "test_design_edits laws/test_independent_lists laws/test_some_rows laws/test_lossless",
    "core/tables/refusals": "test_design_edits laws/test_independent_lists",
    "core/tables/same": "test_same_things laws/test_lossless",
    "core/study/shared": "laws/test_roles",
    "files/table_rows": "test_engines",
    "files/together": "test_together",
    "files/delimited": "laws/test_files test_readers",
    "core/study/same": "test_same_things laws/test_yards",
    "core/tables/merge": "laws/test_feeds test_topup laws/test_months",
    "core/tables/match": "test_proof test_topup laws/test_lossless laws/test_roles",
    "core/proof/alike": "test_topup",
    "core/proof/beside": "test_same_things laws/test_months",
    "design_file/upgrade": "test_design_edits",
    "flow/opening": "test_design_edits test_bad_input",
    "core/design/home": "test_design_edits laws/test_feeds",
    "core/explain/present": "test_drafts",
    "design_file/update": "test_drafts",
    "flow/news": "test_later_sheets",
    "flow/loading": "test_bad_input test_topup laws/test_tampering test_proof test_steps test_program",
    "flow/proving": "laws/test_tampering test_proof test_steps test_program",
    "flow/further": "test_topup test_same_things laws/test_months test_steps",
    "flow/fitting": "test_topup",
    "flow/designs": "test_drafts",
    "flow/": "test_topup laws/test_months laws/test_tampering test_proof test_steps test_program",
    "core/texts": "test_slips laws/test_yards test_ties",
    "core/tables/": "test_design_edits test_proof test_drafts laws/test_lossless laws/test_independent_lists laws/test_some_rows"
    " laws/test_roles laws/test_ids laws/test_rules",
    "targets/sql/terms": "laws/test_terms",
    "targets/sql": "test_servers test_targets test_file_places test_design_edits",
    "targets/postgresql": "test_servers test_targets test_file_places",
    "targets/mariadb": "test_servers test_targets test_file_places",
    "targets/file": "test_file_places test_targets",
    "targets/script": "test_file_places test_targets",
    "targets/workbook": "test_file_places test_targets",
    "targets/folder": "test_file_places test_targets",
    "targets": "test_design_edits test_program test_safety test_targets test_proof laws/test_tampering test_bad_input",
    "engines": "test_engines",
    "flow/in_engine": "test_engines",
    "flow/engine_ends": "test_engines",
    "flow/staging": "test_engines",
    "design_file": "test_design_edits test_steps laws/test_lossless laws/test_rules",
    "": "test_proof test_steps test_program test_design_edits laws/test_tampering",
}
FAULTS: tuple[tuple[str, str, str], ...] = (
    # What a later sheet writes otherwise, and what another bears out.
    ("core/shape/header.py", "often[words(one)] == 2", "False"),
    ("core/shape/series.py", "there.pop(_moment(label), label)", "label"),
    ("core/tables/names.py", "if same is not None", "if False"),
    ("core/shape/atoms.py", "both >= max(FEWEST, BORNE_OUT * min(len(own), len(theirs)))", "True"),
    ("core/shape/children.py", "return listed in (0, len(probe))", "return True"),
    ("core/draft/keys.py", "key in of_others, ", ""),
    ("core/draft/assemble.py", "return own if singular(own) in unique and", "return own if False and"),
    ("core/draft/judge.py", "return unit and not self.candidates.is_named(one.left, one.right)", "return unit"),
    # The proof.
    ("core/proof/compare.py", "return np.not_equal(original.codes, _recoded(original, given))", "return np.not_equal(original.codes, _recoded(original, given)) & (given.codes != EMPTY)"),
    ("core/proof/compare.py", "return np.ones(len(original.codes), dtype=bool)", "return np.zeros(len(original.codes), dtype=bool)"),
    ("core/proof/compare.py", "        wrong += len(rows)\n        for row in rows[: SHOWN", "        wrong += len(rows) // 2\n        for row in rows[: SHOWN"),
    ("core/proof/compare.py", "alike = one.num_rows == two.num_rows and not any(", "alike = not any("),
    ("core/proof/compare.py", "same = pc.fill_null(pc.equal(one, two), False)", "same = pc.fill_null(pc.equal(one, two), True)"),
    ("core/proof/compare.py", "both_blank = pc.and_(pc.is_null(one), pc.is_null(two))", "both_blank = pc.or_(pc.is_null(one), pc.is_null(two))"),
    ("core/proof/compare.py", "extra = pc.is_null(pc.index_in(held, wanted))", "extra = pc.is_null(pc.index_in(wanted, wanted))"),
    ("core/proof/compare.py", "missing = pc.is_null(place).to_numpy(zero_copy_only=False)\n", "missing = np.zeros(len(place), dtype=bool)\n"),
    ("core/proof/compare.py", "    again = np.flatnonzero(first_rows(", "    again = np.flatnonzero(0 * first_rows("),
    ("core/proof/compare.py", "rows = np.arange(relation.row_count) if column.changed is None else np.flatnonzero(column.changed == 0)", "rows = np.arange(relation.row_count) if column.changed is None else np.flatnonzero(column.changed == 1)"),
    ("core/proof/compare.py", "            faulty = some[_other_value(cells, column)(one, two)]", "            faulty = some[_other_value(cells, column)(one, two)][1:]"),
    ("core/proof/compare.py", "return lambda one, two: np.not_equal(renumber[one], two)", "return lambda one, two: np.not_equal(renumber[one], two) & (two != EMPTY)"),
    ("core/proof/compare.py", "yield position, rows[relation.block[rows] == block]", "yield position, rows[relation.block[rows] == 0]"),
    ("core/proof/compare.py", "                odd = _unequal(pa.chunked_array([expected]), given)\n", "                odd = _unequal(pa.chunked_array([expected]), given)[:0]\n"),
    ("core/proof/compare.py", "    in_order = in_order and start == relation.row_count\n", ""),
    ("core/proof/compare.py", "        if piece.num_columns != len(wanted):", "        if piece.num_columns > len(wanted):"),
    ("core/proof/compare.py", "    for group in np.flatnonzero(more):", "    for group in np.flatnonzero(more > 0):"),
    ("core/proof/compare.py", "    first = first_rows(whole)\n    found = []\n", "    first = first_rows(whole)\n    more = more * 0\n    found = []\n"),
    ("core/proof/compare.py", "    return Check(what, compared, \"parts\", len(found), tuple(found[:SHOWN]))", "    return Check(what, compared, \"parts\", 0, tuple(found[:SHOWN]))"),
    ("core/proof/compare.py", "codes[rows[here]] = value.codes[here]", "codes[rows[here]] = value.codes[0]"),
    ("core/model/proof.py", "return all(not check.different for check in self.checks) and all(ledger.adds_up for ledger in self.ledgers)", "return all(not check.different for check in self.checks)"),
    ("core/model/proof.py", "return self.cells == parts and not self.twice", "return self.cells == parts"),
    ("core/model/proof.py", "return self.cells == parts and not self.twice", "return not self.twice"),
    # The account of cells.
    ("core/proof/ledger.py", "self.twice += int(np.count_nonzero(marks[rows]))", "self.twice += 0"),
    ("core/proof/ledger.py", "return int(total[0]), {", "return 0, {"),
    ("core/proof/ledger.py", "asked = header in self.sheet.leave_out or not self.keeps_places", "asked = True"),
    ("core/proof/ledger.py", "return not of or {*of, self.relation.columns[-1].name} <= self.headers.keys()", "return True"),
    ("core/proof/ledger.py", "cells.mark_again(column.part_of, rows, Fate.LEFT_OUT,", "cells.mark_again(column.part_of, rows[:0], Fate.LEFT_OUT,"),
    ("core/proof/ledger.py", "one.header: Fate.STORED if one.formula is None else Fate.CALCULATED", "one.header: Fate.STORED"),
    ("core/proof/ledger.py", "if fate is not None and self.keeps_places:", "if fate is not None:"),
    ("core/proof/ledger.py", "        if part.reason == OUTSIDE or ", "        if "),
    ("core/proof/ledger.py", "rows = np.flatnonzero(count == len(outside))", "rows = np.flatnonzero(count > len(outside))"),
    ("core/proof/ledger.py", "                if any(texts):\n", "                if all(texts):\n"),
    ("core/proof/changes.py", "for row in rows[column.changed[rows] != 0].tolist():", "for row in rows[column.changed[rows] == 0].tolist():"),
    ("flow/loading.py", "return not self.proof.holds or bool(self.told) or torn", "return not self.proof.holds or torn"),
    ("flow/loading.py", "return not self.proof.holds or bool(self.told) or torn", "return not self.proof.holds or bool(self.told)"),
    ("flow/proving.py", "        if not structure.different:\n            raise", "        if structure.different:\n            raise"),
    # Joining again.
    ("core/tables/match.py", "return np.where(blank, EMPTY, place[both.codes[:rows]]).astype(np.int32)", "return np.where(~blank, EMPTY, place[both.codes[:rows]]).astype(np.int32)"),
    ("core/proof/rejoin.py", "side=\"right\") - 1", "side=\"left\") - 1"),
    ("core/proof/rejoin.py", "    order = np.argsort(limits)\n", "    order = np.arange(len(limits))\n"),
    ("core/proof/rejoin.py", "known[path] = found[rows]", "known[path] = found[: len(rows)]"),
    ("core/proof/rejoin.py", "repeats = np.maximum(counts, 1)[rows[()]]", "repeats = counts[rows[()]]"),
    # Splitting.
    ("core/tables/cells.py", "    if orphan.any() and not kept:\n", "    if orphan.all() and not kept:\n"),
    ("core/tables/across.py", "    if orphan.any() and not is_kept", "    if orphan.all() and not is_kept"),
    ("core/tables/across.py", "np.where(rows == EMPTY, cells.codes, np.int32(EMPTY))", "cells.codes"),
    ("core/columns/partners.py", "[np.bincount(whole, minlength=count) > 1] = EMPTY", "[np.bincount(whole, minlength=count) > 2] = EMPTY"),
    ("core/columns/partners.py", "rows = np.where(filled == pattern, self._found(own, some), rows)", "rows = rows"),
    ("core/tables/views.py", "            elif column.unmatched is not None:\n", "            elif False:\n"),
    ("core/tables/views.py", "            return replace(feed, sheet=sheet)\n", "            return Feed(sheet)\n"),
    ("core/tables/cells.py", "required = column.required or column.name in plan.key", "required = column.required"),
    ("core/tables/rows.py", "            if conflict is not None:\n", "            if False:\n"),
    ("core/tables/rows.py", "        check_key_filled(design, plan, places, cells, some_blank & ~rest_blank)\n", ""),
    ("core/tables/split.py", "    check_filled(design, plan, table, made)\n", ""),
    ("core/tables/split.py", "    check_rules(design, plan, table, made)\n", ""),
    ("core/tables/split.py", "        check_unique(design, table, columns_alike, made)\n", "        pass\n"),
    ("core/tables/split.py", "            check_combinations(design, base, places, filled[base.name].rows_in(feed), rows)\n", "            pass\n"),
    ("core/tables/views.py", "        elif came.name not in sheet.leave_out:", "        elif False:"),
    ("core/tables/cells.py", "pa.array(rows.astype(np.int64) + 1 + last), True)", "pa.array(rows.astype(np.int64) + last), True)"),
    ("core/tables/cells.py", "    place[above.grid_rows] = np.arange(above.row_count)\n", "    place[above.grid_rows] = 0\n"),
    ("core/tables/cells.py", "np.minimum.at(smallest,", "np.maximum.at(smallest,"),
    ("core/tables/refusals.py", "    if (owner == EMPTY).any():\n", "    if False:\n"),
    ("core/tables/refusals.py", "if rule.kind == RuleKind.MIN and kind.word not in NUMBERS:", "if False:"),
    ("core/design/check.py", "    _check_used_once(sheet.name, tables)\n", ""),
    ("core/design/check.py", "    _check_left_out(sheet, tables)\n", ""),
    ("core/design/check.py", "            _check_band(table)\n", "            pass\n"),
    ("core/design/check.py", "        _check_own_rows(design, table)\n", ""),
    ("core/design/check.py", "    _check_operands(sheet, tables)\n", ""),
    # Shaping.
    ("core/shape/__init__.py", "        told += found_otherwise(before, working, step)\n", ""),
    ("core/shape/__init__.py", "        told += told_misfits(working, step, place, list(misfits(working, step)) if misfits else [])\n", ""),
    ("core/shape/__init__.py", "        check_columns(working, step, place, detector.SETTINGS)\n", ""),
    ("core/shape/__init__.py", "    for one in unasked:\n", "    for one in unasked[:0]:\n"),
    ("core/shape/totals.py", "sparse[-LAST:] = True", "sparse[-1:] = True"),
    ("core/shape/totals.py", "is_total_line = bool(sums) or at_the_end or _speaks_of_all(working, row)", "is_total_line = True"),
    ("core/shape/totals.py", "(is_total(text) or _plain(text) in given)", "is_total(text)"),
    ("core/shape/totals.py", "        if is_total_line:\n            found.append(row)", "        if is_total_line:\n            found.insert(0, row)"),
    ("core/shape/notes.py", "    while notes and not _is_note(working, notes):\n        notes.pop()\n", ""),
    ("core/shape/repeated_header.py", "    above = _above(working, again) & ~again\n", "    above = none\n"),
    ("core/shape/header.py", "        if known > best[0]:", "        if known >= best[0]:"),
    ("core/shape/header.py", "best[1:] if best[0] >= max(KNOWN * len(wanted), 1) else None", "best[1:]"),
    ("core/shape/area.py", "    if best < max(KNOWN * len(wanted), 1):", "    if best < 0:"),
    ("core/shape/area.py", "    return alike[place - 1].area\n", "    return alike[0].area\n"),
    ("core/shape/numbers.py", "fits = shape.fullmatch(text) and sign_of(text) in (\"\", step.text(\"sign\"))", "fits = shape.fullmatch(text)"),
    ("core/shape/numbers.py", "return f\"-{digits}\" if negative and digits.strip(\"0.\") else digits", "return digits"),
    ("core/shape/dates.py", "if column and written(parse(str(text)), step.text(\"order\")) is None:", "if column and parse(str(text)) is None:"),
    ("core/shape/duplicates.py", "        again &= column is not None and column.filled\n", "        again &= column is not None\n"),
    ("core/shape/one_row.py", "if not rows or not set(step.texts(\"says\")) <= set(there):", "if not rows:"),
    ("core/shape/sideways.py", "fate = Fate.CHANGED if number else Fate.LEFT_OUT", "fate = Fate.LEFT_OUT"),
    ("core/shape/lists.py", "rewritten = ~exact[codes] & (codes != EMPTY) & (by == 0)", "rewritten = ~exact[codes] & (codes != EMPTY)"),
    ("core/shape/values.py", "    if values.null_count:\n        raise", "    if values.null_count > 1:\n        raise"),
    ("core/shape/heads.py", "codes = np.where(column.filled | (group < 0),", "codes = np.where(group < 0,"),
    ("core/shape/blank_words.py", "return word in SIGNS and not any(", "return not any("),
    ("core/shape/spelling.py", "sure = one.odds >= DONE and (one.witnessed or not names)", "sure = True"),
    ("core/shape/gaps.py", "MOST_GAPS = 0.05", "MOST_GAPS = 5.0"),
    ("core/shape/slips.py", "odds *= agree * disagree", "odds *= agree"),
    ("core/shape/slips.py", "or _has_accents_of(self.names[odd], self.names[common])", ""),
    ("core/shape/siblings.py", "return for_meant >= for_odd", "return True"),
    ("core/shape/file_name.py", "return _without(parts[place - 1], step.texts(\"without\"))", "return parts[place - 1]"),
    # The draft.
    ("core/draft/judge.py", "        and not any(part <= frozenset(one.left) for part in keys)\n", ""),
    ("core/draft/judge.py", "and one.right not in aside\n", "and True\n"),
    ("core/draft/judge.py", "        found = self._without_gaps(found)\n", ""),
    ("core/draft/judge.py", "        found += self._constants([one for one in found if one.believed])\n", ""),
    ("core/draft/judge.py", "groups <= by_left[left] <= NAMESAKES * groups", "False"),
    ("core/draft/weighing.py", "count for count in self._finer.get(left[0], ()) if count > groups)])", "count for count in self._finer.get(left[0], ()) if count > groups and False)])"),
    ("core/draft/weighing.py", "            \"in the run behind\": float(right in self.run(left)),\n", ""),
    ("core/draft/keys.py", "or any(one.blanks for one in facts)", "or False"),
    ("core/draft/sorts.py", "facts.code_like >= 0.95", "facts.code_like >= 0.0"),
    ("core/theory/closure.py", "                if not lacking[place]:", "                if lacking[place]:"),
    # The database and the design file.
    ("targets/sql/ddl.py", "{' NOT NULL' * column.required}", ""),
    ("targets/sql/ddl.py", "        if not _served(table, one):", "        if False:"),
    ("targets/sql/ddl.py", "references is References.OF_OTHERS and not one.is_own", "references is References.OF_OTHERS"),
    ("targets/sql/terms.py", "if self.binds > binds or", "if self.binds >= binds or"),
    ("targets/sql/terms.py", "(self.sign == sign and sign in CHAINED)", "False"),
    ("targets/sql/dialect.py", "text.replace(\"\\\\\", \"\\\\\\\\\") if self.backslashes else text", "text"),
    ("targets/sql/dialect.py", "{name.replace(self.mark, 2 * self.mark)}", "{name}"),
    ("targets/sql/views.py", "_unused(\"listed\", self.taken)", "\"listed\""),
    ("targets/sql/names.py", "while name.lower() in taken:", "while name in taken:"),
    ("targets/sqlite.py", "            if leftover.exists():", "            if False:"),
    ("targets/sqlite.py", "            if name.lower() in wanted:", "            if False:"),
    ("targets/sqlite.py", "            if on:\n", "            if False:\n"),
    ("targets/sqlite.py", "            except BaseException:\n                connection.rollback()\n                raise", "            except BaseException:\n                connection.commit()\n                raise"),
    ("targets/sqlite.py", "if of.lower() in ours and name not in expected and sql:", "if False:"),
    ("targets/sqlite.py", "return np.argsort(key.values.to_numpy(zero_copy_only=False)[key.codes], kind=\"stable\")", "return np.arange(base.row_count)"),
    ("targets/sqlite_rows.py", "if any(pa.types.is_binary(column.type) for column in held.columns):", "if False:"),
    ("design_file/read.py", "if not set(needed) <= set(settings) <= set(wanted):", "if not set(needed) <= set(settings):"),
    ("design_file/read.py", "        if depth > DEEPEST or len(sign) > 2:", "        if len(sign) > 2:"),
    ("design_file/write.py", "    if sheet.leave_out:\n", "    if False:\n"),
    ("design_file/write.py", "    if table.unique:\n", "    if False:\n"),
    # Servers and files.
    ("targets/sql/server.py", "        if OBJECTS in there and not over:", "            if False:"),
    ("targets/sql/server.py", "if other is not None and other.lower() not in names:", "if False:"),
    ("targets/sql/own.py", "        elif remembered[name][:2] != (kind, statement):", "        elif False:"),
    ("targets/sql/own.py", "yield from lines_that_differ(f\"{kind} {name}\", held, there[name][1])", "pass"),
    ("targets/postgresql.py", "UNION ALL\nSELECT relname, kind, 6,", "UNION ALL\nSELECT relname, kind, 6 WHERE FALSE --"),
    ("targets/postgresql.py", "    forbidden = \"\\x00\"\n", ""),
    ("targets/mariadb.py", "            self._bring_back(int(number))\n", ""),
    ("targets/mariadb.py", "        self._check_dependent(session, old)\n", ""),
    ("targets/mariadb.py", "yield from (self._refused(table, reference)", "yield from (\"DO 0\""),
    ("targets/file.py", "        if self.exists() and not self._is_ours():", "        if False:"),
    ("targets/file.py", "                self._check_made(made, tables)\n", "                pass\n"),
    ("targets/script.py", "for text in found[len(wanted) :]:", "for text in ():"),
    ("targets/workbook.py", "            if headers != have:\n", "            if False:\n"),
    ("targets/folder.py", "for name in sorted(there - names)]", "for name in ()]"),
    # Sheets that tell of the same things.
    ("core/tables/same.py", "    named = named[filled[first[named]]]\n", ""),
    ("core/tables/same.py", "np.where(one == EMPTY, other, one)", "np.where(other == EMPTY, one, other)"),
    ("core/tables/same.py", "            if header in kept:\n", "            if True:\n"),
    ("core/tables/same.py", "& (own.codes != EMPTY) & (rows_of", "& (rows_of"),
    ("core/tables/same.py", "(place == 0 or not decided[name].form)", "True"),
    ("core/tables/views.py", "                self.otherwise[header] = further\n\n", "                pass\n\n"),
    ("files/together.py", "(_is_dated(names) or not _list_the_same(group))", "True"),
    ("files/together.py", 'patterns.append(f"{first}[{', 'patterns.append(f"{first}({'),
    ("files/delimited.py", "if content.startswith(codecs.BOM_UTF8):", "if False:"),
    ("core/draft/links.py", "return numbered or any(is_moment_header", "return False and any(is_moment_header"),
    ("core/draft/links.py", "one.known == one.different and _are_telling(children)", "False"),
    ("core/draft/assemble.py", "alone -= self.decided.met_again", "pass"),
    ("core/draft/assemble.py", "if thing.lead[0] in self.decided.lists:", "if False:"),
    ("core/draft/order.py", "return (1 + deep if holder", "return (0 if holder"),
    ("core/draft/unite.py", "if covered is None and not named_otherwise:", "if False:"),
    ("core/proof/at_odds.py", "if mean_the_same or is_near(own, theirs):", "if mean_the_same:"),
    ("core/proof/at_odds.py", "pairs = [*_beside_each_other(plan, known[plan.name])]", "continue"),
    ("core/proof/at_odds.py", "known = tables.by_name if held is None else held", "known = tables.by_name"),
    ("core/proof/strangers.py", "is_told = bool(lists) or ", "is_told = "),
    ("core/draft/same.py", "if all(dates.values()):", "if False:"),
    ("core/study/same.py", "made.bits >= (BITS_OF_NAMED if shared else BITS) + tried", "made.bits >= 0"),
    ("core/texts/twins.py", " or _differ_in_letters_alone(one, other)", ""),
    # What is added to what is held.
    ("core/tables/merge.py", "np.where(rank < counts[theirs], ", "np.where(counts[theirs] > 0, "),
    ("core/tables/merge.py", "default=0) + 1\n", "default=0)\n"),
    ("core/tables/merge.py", "        if tell_apart(", "        if True or tell_apart("),
    ("core/tables/merge.py", "for row in np.flatnonzero(was_there & (known == EMPTY) & given).tolist():", "for row in ():"),
    ("core/tables/merge.py", "known[blank] = _partners(before, own, said)[blank]", "pass"),
    ("flow/further.py", "stops = how.conflicts is Conflicts.STOP and bool(step.merged.conflicts)", "stops = False"),
    ("flow/further.py", "(differs[column.name] & some).any()", "False"),
    ("core/tables/merge.py", "lacking = (by != EMPTY) & held", "lacking = by < EMPTY"),
    ("core/tables/merge.py", "became = np.where(became == EMPTY, match(", "became = np.where(became != EMPTY, match("),
    ("core/tables/merge.py", "fills &= self.unsaid.held[said][there] if said in self.unsaid.held else False", ""),
    ("core/tables/merge.py", "self.changed.setdefault(plan.name, set()).update(there[taken].tolist())", "pass"),
    ("core/tables/merge.py", "        if plan.grain is Grain.LIST:\n", "        if False:\n"),
    ("core/proof/unsaid.py", "~behind[plan.name]", "behind[plan.name]"),
    ("core/proof/beside.py", "            differs &= one == EMPTY\n", "            differs &= one != one\n"),
    ("core/proof/beside.py", "np.where(differs, one, np.int32(EMPTY))", "np.where(differs, np.int32(EMPTY), one)"),
    ("core/proof/beside.py", "& (own.codes != EMPTY) & (things != EMPTY)", "& (things != EMPTY)"),
    ("flow/further.py", "        found.setdefault(place, f\"{cell.what}", "        (place, f\"{cell.what}"),
    ("flow/further.py", "error.hint, *rows, sheet=plan.name", "error.hint, sheet=plan.name"),
    ("flow/further.py", "    for row, why in step.broken.items():\n", "    for row, why in ():\n"),
    ("flow/windows.py", "plan.grain is not Grain.LIST", "True"),
    ("flow/topping.py", "_new_rows(topped), _changed_rows(topped), topping", "_new_rows(topped), [], topping"),
    ("design_file/upgrade.py", "made_new if is_edited(text) else with_mark(made_new)", "made_new"),
    ("design_file/upgrade.py", "and not line.lstrip().startswith(\"#\")", ""),
    ("flow/opening.py", "        write_whole(copy, text)\n", ""),
    ("core/shape/totals.py", "if len(found) < working.row_count else NONE", "if 2 * len(found) < working.row_count else NONE"),
    # What is told of later sheets, and designs that were edited.
    ("core/proof/alike.py", "np.setdiff1d(rows, place).tolist()", "[]"),
    ("core/proof/alike.py", "    found = [\n        Difference(", "    found = [] and [\n        Difference("),
    ("flow/loading.py", "    elif came_once(target.loads()):", "    elif True:"),
    ("flow/loading.py", "        relations |= {name: relations[name].without(np.array(error.rows)) for name in family}\n", ""),
    ("flow/news.py", "if text and text not in held]", "if text]"),
    ("flow/reading.py", "            left, misfit = [*left, *sorted(rows.items())], error\n", "            raise\n"),
    ("core/design/home.py", "    design = _without_idle_steps(design)\n", ""),
    ("core/design/home.py", "    for other in _alone(design, table) if missing else ():", "    for other in ():"),
    ("core/design/home.py", "replace(column, formula=None, store=True) if lost else column", "column"),
    ("core/draft/redraft.py", "if share >= SAME or one.name == other.name", "if one.name == other.name"),
    ("core/draft/redraft.py", "own.act == Act.HEADER or only_counted", "True"),
    ("design_file/update.py", "*([] if change.safe else [lines[own[0]]])", "*[]"),
    ("core/explain/present.py", "if table.name not in taken and table.grain", "if table.grain"),
    ("core/shape/ditto.py", "is_mark & (above != EMPTY)", "is_mark"),
    ("core/shape/gaps.py", "| (wrong > MOST_ERRORS * there)", ""),
    ("core/shape/totals.py", "    return working.text(row, others[0]) if own and _lacks_what_others_have(working, row) else \"\"", "    return \"\""),
    ("core/draft/judge.py", "constant.issuperset(named):", "named:"),
    ("core/draft/keys.py", "crossed = findings.row_count >= CROSSED", "crossed = False and findings.row_count >= CROSSED"),
    ("flow/topping.py", "write = bool(self.loads) and not stopped and not self.how.dry_run", "write = bool(self.loads) and not stopped"),
    ("flow/noted.py", "for one in held if not one.sealed", "for one in held if False"),
    ("flow/windows.py", "and len(plan.feeds) == 1", "and True"),
    # Inside an engine.
    ("engines/checks.py", "({differ} OR (count", "((count"),
    ("engines/checks.py", "if count[0].as_py() and where not in but:", "if count[0].as_py() is None:"),
    ("engines/checks.py", "is not kept:", "is kept:"),
    ("engines/checks.py", "few, many = sorted(sides, key=len)", "few, many = sides[0][:1], ()"),
    ("engines/proven.py", "    if one == other:", "    if one != other:"),
    ("engines/fill.py", "{self.first_rows[plan.sheet] - 1}", "{self.first_rows[plan.sheet]}"),
    ("engines/fill.py", "{plan.feeds.index(feed)} AS", "0 AS"),
    ("engines/fill.py", "self.dialect.same if partners in self.partly else", "self.dialect.same if False else"),
    ("engines/fill.py", " HAVING count(*) = 1)", ")"),
    ("engines/partners.py", "for one in named[: len(names)]], alike=column.alike", "for one in named[: len(names)]]"),
    ("engines/united.py", "(ORDER BY things.place)", "(ORDER BY things.place DESC)"),
    ("flow/in_engine.py", "max(SAMPLE, SAMPLE * COLUMNS // rows.column_count)", "SAMPLE"),
    ("flow/in_engine.py", "before is None or before.how != plan.how_staged(sheet)", "before is None"),
    ("flow/in_engine.py", "self._spots(fill, places) if plan.unites else {}", "{}"),
    ("core/tables/across.py", "one.without(lost) if one.source == own.source else one", "one"),
    ("flow/staging.py", "pc.add(values, above) if", "values if"),
    ("engines/fill.py", "{int(digits) - 1}", "{int(digits)}"),
    ("engines/mariadb.py", "week({date}, 3)", "week({date})"),
    ("engines/mariadb.py", "collation_connection = {before}", "collation_connection = utf8mb4_nopad_bin"),
    ("files/table_rows.py", "% {self.step} < {self.run}", "% {self.step} <= {self.run}"),
    ("core/study/shared.py", "min(self.hidden, other.hidden)", "0"),
    ("targets/sql/rows.py", ' or "\\0" in said[0]', ""),
    ("flow/engine_ends.py", "    if wrong is not None:", "    if wrong is not None and not wrong.differences:"),
    ("core/proof/unsaid.py", "                    mark(table, name, rows)\n", "                    pass\n"),
    ("core/proof/unsaid.py", "if len(plan.feeds) > 1 and", "if len(plan.sheets) > 1 and"),
    ("core/tables/merge.py", "            rows = rows[~self.unsaid.further[said][rows]]\n", "            pass\n"),
    ("core/design/feeds.py", "        if silent is not None:\n", "        if False:\n"),
    ("core/design/home.py", "if told else (design, [])\n", "if False else (design, [])\n"),
    ("core/draft/things.py", "        return False  # numbers are the same by accident\n", "        return True\n"),
    ("core/draft/things.py", "        if not differ:\n", "        if True:\n"),
    ("core/draft/feeds.py", "    return gone if kept.endswith(f\"_{gone}\") else kept\n", "    return kept\n"),
    ("core/draft/mentions.py", "headers=link.headers if known else (),", "headers=(),"),
    ("core/draft/links.py", "    return known <= by_chance or bits < NO_ACCIDENT\n", "    return False\n"),
    ("core/draft/redraft.py", "elsewhere=() if own else ((sheet.name, (header,)),),", "elsewhere=(),"),
    ("core/proof/strangers.py", "if not is_told and (not near or any(map(str.isdigit, text))):", "if not is_told:"),
    ("core/draft/keys.py", "return frozenset(filter(is_moment_header, named))", "return frozenset()"),
    ("core/draft/keys.py", "filled -= measured - {*findings.of, last}", "pass"),
    ("core/draft/keys.py", "return is_unbroken(facts) and facts.lowest > 1 and not years", "return is_unbroken(facts)"),
    ("core/draft/keys.py", "others = [one for one in findings.columns if one.name not in skip and one.name not in key]", "others = [one for one in findings.columns if one.name not in skip]"),
    ("core/draft/judge.py", "self.findings.nearly | self._told_apart_by_mail(names, alone)", "self.findings.nearly"),
    ("core/draft/judge.py", "return one.evidence is None or one.evidence.chance > MORE_OF_LISTED", "return False"),
    ("core/draft/sheets.py", "return {header: base.name if len(named) == 1 else", "return {} if len(named) > 1 else {header: base.name if len(named) == 1 else"),
    ("core/draft/sheets.py", "        if left:\n", "        if False:\n"),
    ("core/draft/sheets.py", "again |= {one.headers[0] for one in on_a_day", "_ = {one.headers[0] for one in on_a_day"),
    ("core/draft/links.py", "        one in of_parts,\n", ""),
    ("core/draft/among.py", "by_code = listed.by_name", "by_code = False and listed.by_name"),
    ("core/draft/unite.py", "for other in list(self.tables.values()) if old != new else ():", "for other in ():"),
    ("core/draft/told_further.py", "called = min(names, key=len)", "called = thing.name"),
    ("core/draft/redraft.py", "return taken(kept) != taken(fresh)", "return False"),
    ("core/draft/redraft.py", "others = [replace(step, proposed=True)", "others = [step"),
    ("core/shape/area.py", "TITLE_LINES = 3", "TITLE_LINES = 1"),
    ("core/shape/series.py", "SOME_PERIODS <= len(run.keys() & longest) == len(run)", "False"),
    ("core/shape/series.py", "    for header in headers:\n        if header not in known:", "    for header in ():\n        if header not in known:"),
    ("core/shape/series.py", "if len(longest) >= (FEWEST_PERIODS if len(same) == 1 else FEWEST_TOGETHER):", "if len(longest) >= 2:"),
    ("core/shape/heads.py", "within = _within(working, [first, *together], heads)", "within = []"),
    ("core/shape/looks.py", "words += len(numbers)", "pass"),
    ("core/shape/sideways.py", "proposed=is_mark,", "proposed=False,"),
    ("core/study/facts.py", "amounts=some and _are_amounts(texts),", "amounts=False,"),
    ("core/tables/periods.py", "return np.isin(mine, theirs), np.isin(theirs, mine)", "return mine >= 0, np.isin(theirs, mine)"),
    ("core/tables/named.py", "        if made is not None:\n                return (whole, made)\n", ""),
    ("flow/fitting.py", "        except NoRowsError:\n            raise  # it has the header of that sheet\n", ""),
    ("flow/designs.py", "without_mark(to_toml(_at(path, made.anew), path.name))", "to_toml(_at(path, made.anew), path.name)"),
    ("core/texts/twins.py", "text.casefold().replace(\".\", \" \").split()", "text.casefold().split()"),
)  # fmt: skip


def found(fault: tuple[str, str, str]) -> bool:
    """Whether some test fails on the code with the fault."""
    name, before, after = fault
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "src" / "hemplit"
        shutil.copytree(CODE, copy, ignore=shutil.ignore_patterns("__pycache__"))
        text = (copy / name).read_text(encoding="utf-8")
        (copy / name).write_text(text.replace(before, after, 1), encoding="utf-8")
        environment = {**os.environ, "PYTHONPATH": str(copy.parent), "CI": "true", "PYTHONDONTWRITEBYTECODE": "1"}
        for tests in next(tests for part, tests in TESTS.items() if name.startswith(part)).split():
            command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", f"tests/{tests}.py"]
            try:
                ran = subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, timeout=900, check=False)
            except subprocess.TimeoutExpired:
                return True
            if ran.returncode:
                return True
    return False


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--only", default="", metavar="PART", help="only faults in files whose names hold this")
    parser.add_argument("--list", action="store_true", help="print the faults and run nothing")
    given = parser.parse_args()
    faults = [fault for fault in FAULTS if given.only in fault[0]]
    for name, before, _ in faults:
        if before not in (CODE / name).read_text(encoding="utf-8"):
            print(f"{name}: there is no place any more that reads: {before[:90]}", file=sys.stderr)
            return 2
    if given.list:
        print("\n".join(f"{name}: {before[:60]!r} → {after[:60]!r}" for name, before, after in faults))
        return 0
    results = []
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for (name, before, after), one in zip(faults, pool.map(found, faults), strict=True):
            results.append(one)
            if not one:
                print(f"NOT FOUND  {name}: {before[:80]!r} → {after[:80]!r}", flush=True)
    print(f"{sum(results)} of {len(results)} faults found ({sum(results) / max(len(results), 1):.0%})")
    return 0 if all(results) else 1


if __name__ == "__main__":
    sys.exit(main())
