# PYTHON_ARGCOMPLETE_OK
"""The command line: studies of a job file, and single answers, each with its working.

Exit codes: 0; 1 a danger stands (check); 2 bad input, with the sentence on stderr.
"""

import argparse
import sys

import argcomplete

from .. import ENGINE_VERSION, __version__
from ..errors import BadInput
from . import answers, chain, check, diagnose, explain, fix, read, size, soil, verify, whatif

USAGE = "loop"


class _Parser(argparse.ArgumentParser):
    """Says what is wrong in one sentence, as the rest of the command line does."""

    def error(self, message: str):
        raise BadInput(f"{message[:1].upper()}{message[1:]}. See {self.prog} --help.")


def parser() -> argparse.ArgumentParser:
    """Every call with its options."""
    top = _Parser(prog=USAGE, description="Ground-fault return paths from the command line.")
    top.add_argument(
        "--version", action="version", version=f"loop {__version__}, engine {ENGINE_VERSION}"
    )
    calls = top.add_subparsers(dest="call", required=True, parser_class=_Parser)
    check.add_to(calls)
    chain.add_to(calls)
    size.add_to(calls)
    answers.add_to(calls)
    soil.add_to(calls)
    diagnose.add_to(calls)
    whatif.add_to(calls)
    fix.add_to(calls)
    read.add_to(calls)
    explain.add_to(calls)
    verify.add_to(calls)
    return top


def main(arguments: list[str] | None = None) -> int:
    """Run one call; its exit code."""
    try:
        top = parser()
        argcomplete.autocomplete(top)
        chosen = top.parse_args(arguments)
        return chosen.run(chosen)
    except BadInput as error:
        where = f" ({error.field})" if error.field else ""
        print(f"{error.sentence}{where}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        return 0
