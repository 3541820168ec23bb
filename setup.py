"""Makes the manual page out of the parser, so that it says what ``--help`` says; all else stands in pyproject.toml."""

import os
import shutil
import sys
from pathlib import Path

from argparse_manpage.manpage import Manpage
from setuptools import setup
from setuptools.command.build_py import build_py

PAGE = Path("build/manual/hemplit.1")
#: The page breaks its lines itself.
WIDTH = "10000"


class BuildWithManual(build_py):
    """Writes the page before anything is copied, and keeps nothing of an earlier build."""

    def run(self) -> None:
        shutil.rmtree(self.build_lib, ignore_errors=True)
        sys.path.insert(0, "src")
        os.environ["COLUMNS"] = WIDTH
        from hemplit import __version__
        from hemplit.cli.main import parser

        page = Manpage(parser(), format="single-commands-section")
        page.source, page.manual = f"Hemplit {__version__}", "Hemplit"
        page.description = self.distribution.get_description()
        PAGE.parent.mkdir(parents=True, exist_ok=True)
        PAGE.write_text(str(page), encoding="utf-8")
        super().run()


setup(cmdclass={"build_py": BuildWithManual}, data_files=[("share/man/man1", [str(PAGE)])])
