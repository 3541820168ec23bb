"""``python -m hemplit`` does the same as the ``hemplit`` command."""

from hemplit.cli.main import run

if __name__ == "__main__":
    run()
