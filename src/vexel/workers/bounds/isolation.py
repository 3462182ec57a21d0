"""What a process that runs user code may write, read and signal, as far as the kernel can enforce it.

Writing, signals and looking into other processes are bounded by Landlock (landlock(7), Linux 5.13, signals from
6.12 on); secrets are hidden by mounts that this process alone sees (mount_namespaces(7), user_namespaces(7)).
Where a kernel has neither, the process runs unbounded: docs/SECURITY.md lists what then does not hold.
"""

import ctypes
import os
import struct
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

OFF = "VEXEL_ISOLATION"
"""In the environment: ``off`` for code that has to write elsewhere."""
_libc = ctypes.CDLL(None, use_errno=True)
_CREATE_RULESET, _ADD_RULE, _RESTRICT_SELF = 444, 445, 446
_VERSION, _PATH_BENEATH = 1, 1
_NO_NEW_PRIVILEGES = 38
_WRITE_FILE, _TRUNCATE, _REFER = 1 << 1, 1 << 14, 1 << 13
_CHANGES = sum(1 << bit for bit in range(4, 13))
"""Rights to make and remove files, folders, sockets, pipes, links and devices."""
_SIGNALS, _ABSTRACT_SOCKETS = 2, 1
_NEW_USER, _NEW_MOUNTS = 0x1000_0000, 0x0002_0000
_BIND, _RECURSIVE, _SLAVE, _READ_ONLY, _NO_DEVICES = 0x1000, 0x4000, 0x8_0000, 1, 4
_DEVICES = ("null", "zero", "full", "random", "urandom", "tty", "dri", "shm", "pts")
"""In /dev: what libraries write to, among them the renderer's and a browser's shared memory."""


@dataclass(frozen=True)
class Reach:
    """What a process may reach beyond what all may.

    Attributes
    ----------
    writes : tuple of str
        Folders that it may write into, beside its temporary one.
    hidden : tuple of str
        Files and folders that it does not see.
    """

    writes: tuple[str, ...] = ()
    hidden: tuple[str, ...] = ()


NOWHERE = Reach()


@dataclass(frozen=True)
class Isolation:
    """What the kernel holds a process to."""

    writes: bool = False
    secrets: bool = False
    signals: bool = False


def writes_are_bounded() -> bool:
    """Whether processes that run user code are confined to their folders on this machine."""
    return os.environ.get(OFF, "").lower() != "off" and _version() >= 1


def _version() -> int:
    """Landlock's version; below 1 where there is none."""
    found: int = _libc.syscall(_CREATE_RULESET, None, ctypes.c_size_t(0), ctypes.c_uint32(_VERSION))
    return found


def isolate(reach: Reach, own: Path) -> Isolation:
    """Bound this process, which has one thread, and all that it starts.

    Parameters
    ----------
    reach : Reach
    own : Path
        Its temporary folder.
    """
    if os.environ.get(OFF, "").lower() == "off":
        return Isolation()
    secrets = _hide(reach.hidden)
    writes, signals = _bound([own, *map(Path, reach.writes)])
    return Isolation(writes, secrets, signals)


def _hide(paths: Iterable[str]) -> bool:
    """Lay emptiness over some files and folders, in this process's own view of the disk."""
    there = [Path(path) for path in paths if Path(path).exists()]
    user, group = os.getuid(), os.getgid()
    if _libc.unshare(_NEW_MOUNTS | (0 if user == 0 else _NEW_USER)):
        return False
    if user != 0:
        Path("/proc/self/setgroups").write_text("deny")
        Path("/proc/self/uid_map").write_text(f"{user} {user} 1")
        Path("/proc/self/gid_map").write_text(f"{group} {group} 1")
    # What is mounted elsewhere later is seen here too, and nothing from here is seen elsewhere.
    if _mount(None, "/", None, _RECURSIVE | _SLAVE):
        return False
    held = True
    for path in there:
        if path.is_dir():
            held &= not _mount("tmpfs", str(path), "tmpfs", _READ_ONLY | _NO_DEVICES, "size=4k,mode=500")
        else:
            held &= not _mount("/dev/null", str(path), None, _BIND)
    return held


def _mount(source: str | None, target: str, kind: str | None, flags: int, data: str | None = None) -> int:
    texts = [None if text is None else os.fsencode(text) for text in (source, target, kind, data)]
    failed: int = _libc.mount(texts[0], texts[1], texts[2], ctypes.c_ulong(flags), texts[3])
    return failed


def _bound(folders: Iterable[Path]) -> tuple[bool, bool]:
    """Let this process write into some folders alone, and signal only what it started; whether either holds."""
    version = _version()
    if version < 1:
        return False, False
    rights = _WRITE_FILE | _CHANGES | (_REFER if version >= 2 else 0) | (_TRUNCATE if version >= 3 else 0)
    scoped = _SIGNALS | _ABSTRACT_SOCKETS if version >= 6 else 0
    # Older kernels take no longer description than they know.
    known = struct.pack("QQQ", rights, 0, scoped)[: 24 if version >= 6 else 16 if version >= 4 else 8]
    rules = _libc.syscall(_CREATE_RULESET, known, ctypes.c_size_t(len(known)), ctypes.c_uint32(0))
    if rules < 0:
        return False, False
    try:
        for folder in folders:
            _allow(rules, folder, rights)
        for name in _DEVICES:
            _allow(rules, Path("/dev") / name, rights if (Path("/dev") / name).is_dir() else _WRITE_FILE)
        if os.getuid() != 0:
            # A browser sets up its own sandbox there.
            _allow(rules, Path("/proc"), _WRITE_FILE)
        if _libc.prctl(_NO_NEW_PRIVILEGES, 1, 0, 0, 0):
            return False, False
        held = _libc.syscall(_RESTRICT_SELF, rules, ctypes.c_uint32(0)) == 0
        return held, held and bool(scoped)
    finally:
        os.close(rules)


def _allow(rules: int, path: Path, rights: int) -> None:
    with suppress(OSError):
        entry = os.open(path, os.O_PATH | os.O_CLOEXEC)
        try:
            rule = struct.pack("=Qi", rights, entry)
            if _libc.syscall(_ADD_RULE, rules, _PATH_BENEATH, rule, ctypes.c_uint32(0)):
                raise OSError(ctypes.get_errno(), os.strerror(ctypes.get_errno()), str(path))
        finally:
            os.close(entry)
