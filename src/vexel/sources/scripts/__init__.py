"""Plain Python scripts: read without running them, and proposed as sources."""

from vexel.sources.scripts.propose import NoProposal, Proposal, mark_of, propose

__all__ = ["NoProposal", "Proposal", "mark_of", "propose"]
