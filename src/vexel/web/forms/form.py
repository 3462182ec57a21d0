"""Rows of fields for the interface, as data: what stands where, under which condition, by which control."""

from collections.abc import Mapping, Sequence
from typing import Any, Literal

from pydantic import BaseModel

Widget = Literal["number", "text", "choice", "select", "colour", "easing", "check", "point", "length"]


class Condition(BaseModel, frozen=True):
    """Whether a value is one of some, or none of them."""

    path: str
    values: list[Any]
    holds: bool = True


class Option(BaseModel, frozen=True):
    """One value to choose.

    Attributes
    ----------
    others : bool
        Whether it also matches all values that no option has; choosing it sets `value`.
    sets : dict
        Other values that go with it, by their paths.
    when : list of Condition
        Under which it is offered.
    """

    value: Any
    label: str
    hint: str = ""
    others: bool = False
    sets: dict[str, Any] = {}
    when: list[Condition] = []


class Preset(BaseModel, frozen=True):
    """A usual value, or several that go together, by their paths."""

    label: str
    sets: dict[str, Any]
    title: str = ""


class Hint(BaseModel, frozen=True):
    """A line below a row, under conditions; ``$name`` is what the place knows by that name."""

    text: str
    when: list[Condition] = []


class Field(BaseModel, frozen=True):
    """A control for one value.

    Attributes
    ----------
    path : str
        Names from the document down, parted by points; numbers count in lists.
    widget : Widget or None
        None until it follows from the type.
    label : str
        What it is called where it is read out; empty until it follows from the document.
    before, after : str
        Words beside it.
    scale : float
        Factor from the document's value to the shown one: 100 for per cent.
    low, high, above : float or None
        Bounds in the shown unit; `above` is exclusive.
    nothing : str
        What an empty field means, where the document may say null or nothing.
    empty : Any
        What the document says then.
    options_from : str
        Name of a list that the place knows.
    bounds_from : list of str
        Names of the lowest and the highest value, where the place knows them.
    sets : dict
        What is set with it, by paths.
    """

    path: str
    widget: Widget | None = None
    label: str = ""
    before: str = ""
    after: str = ""
    scale: float = 1
    low: float | None = None
    high: float | None = None
    above: float | None = None
    step: float | None = None
    whole: bool = False
    width: str = ""
    nothing: str = ""
    empty: Any = None
    default: Any = None
    options: list[Option] = []
    options_from: str = ""
    bounds_from: list[str] = []
    sets: dict[str, Any] = {}


class Row(BaseModel, frozen=True):
    """A name, and one or more fields.

    Attributes
    ----------
    name : str or None
        None until it is the title of its only field.
    unit : str
        Behind the fields; two words parted by ``|`` are for one and for several.
    what : str
        Name of an edit for undo; empty until it follows from `name`.
    special : str
        In place of fields: the part of the interface that draws what no field can.
    more : bool
        Whether it is folded away with other rarely used settings.
    """

    name: str | None = None
    fields: list[Field] = []
    unit: str = ""
    hints: list[Hint] = []
    presets: list[Preset] = []
    presets_in: Literal["below", "beside", "list"] = "below"
    when: list[Condition] = []
    what: str = ""
    heading: str = ""
    special: str = ""
    more: bool = False


def when(path: str, *values: Any) -> Condition:
    """That a value is one of some; of none named, that it is true."""
    return Condition(path=path, values=list(values) or [True])


def unless(path: str, *values: Any) -> Condition:
    """That a value is none of some; of none named, that it is not false, 0, empty or null."""
    return Condition(path=path, values=list(values) or [False, 0, "", None], holds=False)


def field(path: str, **values: Any) -> Field:
    """A field; `options` may be a mapping of values to labels, or labels with hints."""
    if isinstance(values.get("options"), Mapping):
        values["options"] = [
            Option(value=value, label=words[0], hint=words[1])
            if isinstance(words, tuple)
            else Option(value=value, label=words)
            for value, words in values["options"].items()
        ]
    return Field(path=path, **values)


ROW_VALUES = set(Row.model_fields) - {"fields"}


def row(*fields: str | Field, **values: Any) -> Row:
    """A row of fields; of a single path, values that are not the row's are its field's.

    `hint` is one without a condition; `presets` may be a mapping of labels to values of the first field.
    """
    own = {name: value for name, value in values.items() if name in ROW_VALUES}
    rest = {name: value for name, value in values.items() if name not in ROW_VALUES and name != "hint"}
    made = [field(one, **rest) if isinstance(one, str) else one for one in fields]
    if hint := values.get("hint"):
        own["hints"] = [*own.get("hints", []), Hint(text=hint)]
    if isinstance(own.get("presets"), Mapping):
        own["presets"] = [
            Preset(label=label, sets=value if isinstance(value, dict) else {made[0].path: value})
            for label, value in own["presets"].items()
        ]
    return Row(fields=made, **own)


def special(name: str, *conditions: Condition) -> Row:
    """What no field can show."""
    return Row(special=name, when=list(conditions))


def heading(text: str, *conditions: Condition) -> Row:
    """A line above the rows that follow."""
    return Row(heading=text, when=list(conditions))


def rare(*rows: Row) -> list[Row]:
    """Rows that are folded away with other rarely used settings."""
    return [one.model_copy(update={"more": True}) for one in rows]


def usual(*values: Any) -> dict[str, Any]:
    """Presets that are called what they are."""
    return {f"{value:g}" if isinstance(value, float) else str(value): value for value in values}


Rows = Sequence[Row]
Forms = dict[str, list[Row]]
