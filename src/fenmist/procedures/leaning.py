"""What a result leans on as a tree: each reference, what that leaned on in its turn, the weakest link."""

from fenmist.calibration.chain import calibrated, links, weakest, weakest_link
from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Outcome
from fenmist.kit.characterisation import ChainLink
from fenmist.procedures.page import Tree, Twig


def tree(job: Job, outcome: Outcome) -> Tree | None:
    """The tree of a job; none where its results lean on nothing that is read."""
    found = links(job)
    if not found:
        return None
    weak, as_of = weakest_link(job, outcome)[0], job.last_at.date().isoformat()
    named = next((n for n, link in enumerate(found) if link.label == weak), -1)
    twigs = tuple(
        Twig(
            link.depth, link.label, calibrated(link), _until(link, as_of), not link.on or _late(link, as_of), n == named
        )
        for n, link in enumerate(found)
    )
    return Tree(job.dut_part.label, twigs, f"The weakest link is {weakest(job, outcome)}.")


def _late(link: ChainLink, as_of: str) -> bool:
    return bool(link.due) and link.due < as_of


def _until(link: ChainLink, as_of: str) -> str:
    return f"{'was due' if _late(link, as_of) else 'due'} {link.due}" if link.on and link.due else ""
