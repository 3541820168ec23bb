"""The whole way in one place, and the Python interface: files, core and targets meet here and nowhere else.

files ─read→ Grid ─shape→ Relation ─study→ Findings ─draft→ Design ─split→ Tables ─write→ target ─prove→ Proof
       reading.py                      studying.py          designs.py     loading.py
"""

from hemplit.flow.designs import (
    DESIGN_ENDING,
    check_place,
    default_design_path,
    is_edited_design,
    redraft,
    row_counts,
    save_design,
    update_design,
)
from hemplit.flow.drawing import picture_of, save_shown, title_of
from hemplit.flow.further import Conflicts, How
from hemplit.flow.loading import (
    Loaded,
    changes_of,
    load_design,
    load_sheets,
    peek,
    proposals_of,
    prove_design,
    prove_tables,
    replaced,
)
from hemplit.flow.noted import LEFT_OUT_ENDING
from hemplit.flow.opening import is_design
from hemplit.flow.reading import Sheets, grid_of, is_in_files, read, read_as_it_is, read_for, shape_grids
from hemplit.flow.studying import (
    Asked,
    Explained,
    draft,
    explain,
    findings,
    stream_dependencies,
    study_relation,
    study_ties,
    together,
)
from hemplit.flow.tallying import questions, questions_of, tally
from hemplit.flow.topping import Topped, stamps, topup
from hemplit.flow.walking import walk

__all__ = [
    "DESIGN_ENDING",
    "LEFT_OUT_ENDING",
    "Asked",
    "Conflicts",
    "Explained",
    "How",
    "Loaded",
    "Sheets",
    "Topped",
    "changes_of",
    "check_place",
    "default_design_path",
    "draft",
    "explain",
    "findings",
    "grid_of",
    "is_design",
    "is_edited_design",
    "is_in_files",
    "load_design",
    "load_sheets",
    "peek",
    "picture_of",
    "proposals_of",
    "prove_design",
    "prove_tables",
    "questions",
    "questions_of",
    "read",
    "read_as_it_is",
    "read_for",
    "redraft",
    "replaced",
    "row_counts",
    "save_design",
    "save_shown",
    "shape_grids",
    "stamps",
    "stream_dependencies",
    "study_relation",
    "study_ties",
    "tally",
    "title_of",
    "together",
    "topup",
    "update_design",
    "walk",
]
