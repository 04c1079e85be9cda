"""Everything that decides what becomes of a document: a policy with its rule, condition, ink limit and profiles."""

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from plinto_core.chain.library import Condition, compute_condition
from plinto_core.icc.profile import Profile, parse
from plinto_core.policy.conversion import Destination, destination_of
from plinto_core.policy.policy import Policy, policy_from_json
from plinto_core.policy.rule import DeliveryRule, rule_from_json


@dataclass(frozen=True)
class Side:
    """A policy with its rule, condition, most ink in percent, and the profiles it names by digest."""

    policy: Policy
    rule: DeliveryRule
    condition: Condition | None = None
    limit: float | None = None
    profiles: dict[str, Profile] = field(default_factory=dict)

    @property
    def destination(self) -> Destination:
        """Where its colors go."""
        return destination_of(self.policy.into, self.condition, self.limit)


def side_of_plain(given: dict[str, Any], cache: Path) -> Side:
    """A side from plain values: `policy` and `rule` as JSON, the paths of the `condition`'s profile (or None) and of the
    `profiles` by digest, and the `limit` in percent. Tables of conditions are kept in `cache`.

    Raises `PolicyError`, `IccError`.
    """
    condition = given["condition"]
    return Side(
        policy_from_json(given["policy"]), rule_from_json(given["rule"]),
        compute_condition(parse(Path(condition).read_bytes()), cache) if condition else None, given["limit"],
        {digest: parse(Path(path).read_bytes()) for digest, path in given["profiles"].items()},
    )  # fmt: skip
