"""A separation that was written as a page, brought under a delivery rule: its colors stay, the file changes."""

from pathlib import Path

from plinto_core.chain.compiled import Chain
from plinto_core.errors import PolicyError
from plinto_core.pdf.apply import apply
from plinto_core.policy.kinds import Catches
from plinto_core.policy.policy import Leave, Policy, Row
from plinto_core.policy.rule import DeliveryRule

_AS_SEPARATED = Policy("As separated", (Row(Catches(), Leave()),), cmyk="destination")


def deliver_by_rule(path: Path, out: Path, rule: DeliveryRule, chain: Chain) -> list[str]:
    """Write the page at `path`, separated through `chain`, to `out` as the rule has it; what the rule wants to be told, in
    sentences.

    Pictures above the rule's ppi are averaged down, within the line's own limit of ink. Raises `PolicyError` where the
    receiver would not take the page.
    """
    ink = chain.recipe.ink
    limit = ink.limits.total_percent if ink.method == "rebuilt" else None
    done = apply(path, out, _AS_SEPARATED, rule, chain.condition, name=out.name, limit=limit)
    if done.refused:
        raise PolicyError(f"The delivery rule '{rule.name}' refuses it: {'; '.join(done.refusals)}")
    return done.notes
