"""Claims of file names: each belongs to one order from the claim until the file exists.

The claim is a small hidden file beside the name, made exclusively, which names its process: of several orders,
threads, commands and servers that want one name, one has it, and the claim of a process that ended is void.
"""

import fcntl
import os
import shutil
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

from vexel.core.errors import Failure, Mistake
from vexel.disk.disk_errors import refusal
from vexel.disk.write import make_folder, owner_of_part, stem_of

SUFFIX = ".claim"


class Taken(Mistake):
    """A name that another file or order has."""


@dataclass(frozen=True)
class Claim:
    """A name that is this order's until it is released.

    Attributes
    ----------
    path : Path
    replace : bool
        Whether a file of that name may be replaced.
    """

    path: Path
    replace: bool = False

    def release(self) -> None:
        """Let go of the name; the file that was made keeps it."""
        with suppress(OSError):
            _mark_of(self.path).unlink()


def claim(path: Path, *, replace: bool = False) -> Claim:
    """Take a name.

    Parameters
    ----------
    replace : bool
        Whether the user has permitted to replace a file of this name.

    Raises
    ------
    Taken
        When a file has the name, or another order.
    Mistake
        When it cannot be the name of a file.
    Failure
        When the folder cannot be written.
    """
    path = path.absolute()
    try:
        make_folder(path.parent)
        with _alone(path.parent):
            if path.is_dir() and any(path.iterdir()):
                raise Taken(f"{path} already holds files: name a new folder, so that nothing is mixed")
            # The claim first: another order publishes its file and then releases, so that a name without a claim has
            # its file by now if it ever gets one.
            if is_claimed(path):
                raise Taken(f"{path} is being made: choose another name, or wait for it")
            if os.path.lexists(path) and not path.is_dir() and not replace:
                raise Taken(f"{path} is there already: choose another name, or add --overwrite")
            _sweep(path.parent)
            mark = _mark_of(path)
            try:
                mark.write_text(_this_process())
            except OSError:
                mark.unlink(missing_ok=True)
                raise
    except (FileExistsError, NotADirectoryError):
        raise Mistake(f"{path.parent} cannot be a folder, since a file has that name: choose another one") from None
    except OSError as error:
        raise Failure(f"{path} cannot be written: {refusal(error)}") from None
    return Claim(path, replace)


@contextmanager
def claimed(paths: Iterable[Path], *, replace: bool = False) -> Iterator[list[Claim]]:
    """Several names for a block; none is taken where one of them cannot be."""
    claims: list[Claim] = []
    try:
        for path in paths:
            claims.append(claim(path, replace=replace))
        yield claims
    finally:
        for one in claims:
            one.release()


@contextmanager
def held(path: Path) -> Iterator[None]:
    """Keep others from removing the contents of a folder for the length of a block.

    Raises
    ------
    Taken
        When another order has it.
    Failure
        When the folder cannot be written.
    """
    path = path.absolute()
    try:
        make_folder(path.parent)
        with _alone(path.parent):
            if is_claimed(path):
                raise Taken(f"another command is writing to {path.parent}: wait for it, or name another folder")
            _mark_of(path).write_text(_this_process())
    except OSError as error:
        raise Failure(f"{path.parent} cannot be written: {refusal(error)}") from None
    try:
        yield
    finally:
        Claim(path).release()


def is_claimed(path: Path) -> bool:
    """Whether an order of a process that lives has a name."""
    return is_claim_alive(_mark_of(path.absolute()))


def is_claim_alive(mark: Path) -> bool:
    """Whether the process that a claim tells is there, and is not another one of its number."""
    try:
        number, _, begun = mark.read_text().partition(" ")
    except (OSError, UnicodeDecodeError):
        return False
    return number.isdecimal() and _begun(int(number)) == begun != ""


def _sweep(folder: Path) -> None:
    """Delete what killed processes left in a folder: unfinished files and claims."""
    with os.scandir(folder) as entries:
        left = [entry.path for entry in entries if entry.name.startswith(".") and is_void(Path(entry.path))]
    for name in left:
        shutil.rmtree(name, ignore_errors=True) if Path(name).is_dir() else Path(name).unlink(missing_ok=True)


def is_void(path: Path) -> bool:
    """Whether an unfinished file, or a claim of a name, is of a process that is gone."""
    if path.name.endswith(SUFFIX):
        return not is_claim_alive(path)
    owner = owner_of_part(path.name)
    return path.name.endswith(".part") and owner is not None and not Path(f"/proc/{owner}").exists()


def _mark_of(path: Path) -> Path:
    digest = sha256(path.name.encode("utf-8", "surrogateescape")).hexdigest()[:8]
    return path.with_name(f".{stem_of(path.name)}.{digest}{SUFFIX}")


def _this_process() -> str:
    return f"{os.getpid()} {_begun(os.getpid())}"


def _begun(process: int) -> str:
    """When a process began, in clock ticks since the machine did (proc(5), field 22); empty where there is none."""
    try:
        return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return ""


@contextmanager
def _alone(folder: Path) -> Iterator[None]:
    """One process at a time looks at a folder's names and takes one."""
    entry = os.open(folder, os.O_RDONLY | os.O_CLOEXEC)
    try:
        # A network disk without locks: the mark is then made without looking at the same time.
        with suppress(OSError):
            fcntl.flock(entry, fcntl.LOCK_EX)
        yield
    finally:
        os.close(entry)
