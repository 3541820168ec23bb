"""The whole way in one place: files, core and targets meet here and nowhere else. Each command imports what it needs.

files ─read→ Grid ─shape→ Relation ─study→ Findings ─draft→ Design ─split→ Tables ─write→ target ─prove→ Proof
       reading.py                      studying.py          designs.py     loading.py
"""
