"""The lines of a script, of which statements are dropped, replaced and moved, with the comments above them."""

import ast
import io
import tokenize

from vexel.sources.scripts.reading import Script, call_of, called, is_main_guard, is_setting

AS_IS = "\0"
"""Begins a moved line that lies within a text of several lines, and must keep its place."""


class CannotWrapError(Exception):
    """Gives the reason why a script cannot become a source by rule."""


class Lines:
    """The lines of a script, of which statements are dropped, replaced and moved."""

    def __init__(self, text: str) -> None:
        self._text = text
        self._lines = text.splitlines()
        self._gone: dict[int, str | None] = {}
        self._first: list[str] = []
        self._strings = _inside_strings(text)
        self.dropped: set[str] = set()

    def source(self, node: ast.expr) -> str:
        """The text of an expression."""
        return ast.get_source_segment(self._text, node) or ast.unparse(node)

    def begin(self, line: str) -> None:
        """Let the moved lines begin with one more."""
        self._first.append(line)

    def drop(self, statement: ast.stmt, alone: bool = False) -> None:
        """Leave a statement out; ``pass`` stands where its block would be empty."""
        call = call_of(statement)
        if call is not None and isinstance(statement, ast.Expr):
            self.dropped.add(f"{called(call)}()")
        self.replace(statement, "pass" if alone else None)

    def replace(self, statement: ast.stmt, by: str | None) -> None:
        """Put one line in the place of a statement."""
        assert statement.end_lineno is not None
        for number in range(statement.lineno, statement.end_lineno + 1):
            if number in self._gone:
                raise CannotWrapError(f"line {number} holds several statements: write each on a separate line")
            self._gone[number] = None
        if by is not None:
            self._gone[statement.lineno] = " " * statement.col_offset + by

    def moved(self, statements: list[ast.stmt]) -> list[str]:
        """The lines of statements, without indentation, with comments and blank lines between them; no imports."""
        shown_lines = list(self._first)
        end = None
        for statement in statements:
            if isinstance(statement, ast.Import | ast.ImportFrom):
                continue
            begin = begin_of(statement)
            above = begin - 1
            while above > (end or 0) and _is_empty(self._lines[above - 1]):
                above -= 1
            between = [self._lines[number - 1].strip() for number in range(above + 1, begin)]
            shown_lines += [line for line in between if line] if end is None else _single_blanks(between)
            shown_lines += self._shifted(range(begin, (statement.end_lineno or begin) + 1), statement.col_offset)
            end = statement.end_lineno
        return shown_lines

    def _shifted(self, numbers: range, column: int) -> list[str]:
        shown_lines = []
        for number in numbers:
            line = self._gone.get(number, self._lines[number - 1])
            if line is None:
                continue
            if number in self._strings:
                shown_lines.append(AS_IS + line)
            else:
                shown_lines.append(line[column:] if not line[:column].strip() else line.lstrip())
        return shown_lines

    def kept(self, script: Script, body: list[ast.stmt], start: int, within: ast.FunctionDef | None) -> list[str]:
        """All lines that stay where they are: what is set up, and every import."""
        away: set[int] = set()
        for statement in body[start:] if within is None else [within]:
            if not isinstance(statement, ast.Import | ast.ImportFrom) or within is not None:
                away |= set(range(begin_of(statement), (statement.end_lineno or 0) + 1))
        if within is not None:
            away |= {
                number for s in script.body if not is_setting(s) and call_of(s) is not None
                for number in range(s.lineno, (s.end_lineno or s.lineno) + 1)
            }  # fmt: skip
        return self._without(script, away, body[start:] if within is None else [])

    def all(self, script: Script) -> list[str]:
        """All lines but those that were dropped."""
        return self._without(script, set(), [])

    def _without(self, script: Script, away: set[int], moved: list[ast.stmt]) -> list[str]:
        first = min((begin_of(s) for s in moved), default=len(self._lines) + 1)
        shown_lines = []
        for statement in script.tree.body:
            if is_main_guard(statement):
                away |= set(range(statement.lineno, (statement.end_lineno or statement.lineno) + 1))
        for number, line in enumerate(self._lines, start=1):
            if number in away or (number >= first and _is_empty(line)):
                continue
            shown = self._gone.get(number, line)
            if shown is not None:
                shown_lines.append(shown)
        return shown_lines


def begin_of(statement: ast.stmt) -> int:
    """The first line of a statement, with its decorators."""
    decorators: list[ast.expr] = getattr(statement, "decorator_list", [])
    return min([statement.lineno, *(decorator.lineno for decorator in decorators)])


def _single_blanks(lines: list[str]) -> list[str]:
    """Lines within a function, where one blank line is as good as two."""
    return [line for before, line in zip(["x", *lines], lines, strict=False) if line or before]


def _is_empty(line: str) -> bool:
    """Whether a line holds a comment alone, or nothing."""
    return not line.strip() or line.lstrip().startswith("#")


def _inside_strings(text: str) -> set[int]:
    """Numbers of the lines that begin within a text of several lines."""
    inside: set[int] = set()
    for token in tokenize.generate_tokens(io.StringIO(text).readline):
        if token.type == tokenize.STRING:
            inside |= set(range(token.start[0] + 1, token.end[0] + 1))
    return inside
