"""Cells of tables that a spreadsheet opens: what it would take for a formula stays text."""

#: What begins a formula.
FORMULA = ("=", "+", "-", "@", "\t", "\r")


def guarded(text: str) -> str:
    """As it is written: an apostrophe before what would be a formula."""
    return f"'{text}" if text.startswith(FORMULA) else text


def unguarded(cell: str) -> str:
    """As it was before it was written; any other apostrophe stays."""
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(FORMULA) else cell
