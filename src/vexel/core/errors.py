"""The two ways in which a person's work can be refused."""


class VexelError(Exception):
    """Base of every error whose text is one readable sentence for a person."""


class Mistake(VexelError, ValueError):
    """The call or the document is wrong; nothing was begun (exit status 2)."""


class Failure(VexelError):
    """The work itself failed, or a finding blocks it (exit status 1)."""
