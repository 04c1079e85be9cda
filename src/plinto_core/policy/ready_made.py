"""Policies to start from."""

from plinto_core.policy.kinds import Catches
from plinto_core.policy.policy import BlackOnly, CleanSolids, Convert, Leave, Policy, Refuse, Row

_ALL = Catches()
_BLACK_TEXT = Row(Catches(objects=("text", "line art"), color="pure black"), BlackOnly())
_UNTAGGED = Refuse("A picture has no profile, so its color would be a guess. Ask the sender which space it is in.")

READY_MADE: dict[str, Policy] = {
    policy.name: policy
    for policy in (
        Policy(
            "Everything into the condition",
            (_BLACK_TEXT, Row(Catches(color="pure ink"), Leave()), Row(_ALL, Convert(preserve=("pure black",)))),
            rgb="sRGB", cmyk="destination",
        ),
        Policy("Only RGB", (Row(_ALL, Convert()),), into="sRGB", rgb="sRGB", cmyk="destination"),
        Policy("Leave and report", (Row(_ALL, Leave()),)),
        Policy(
            "Refuse anything untagged",
            (
                Row(Catches(spaces=("RGB",), objects=("image",), tagged=False), _UNTAGGED),
                Row(
                    Catches(spaces=("RGB",), tagged=False),
                    Refuse("A color has no profile. Ask the sender which RGB it is meant in."),
                ),
                _BLACK_TEXT,
                Row(Catches(spaces=("RGB", "Lab")), Convert()),
                Row(_ALL, Leave()),
            ),
        ),
        Policy(
            "Receiver wants no profiles",
            (
                _BLACK_TEXT,
                Row(Catches(spaces=("CMYK",), tagged=False), Leave()),
                Row(Catches(spaces=("spot",)), Leave()),
                Row(_ALL, Convert(preserve=("pure black",))),
            ),
            rgb="sRGB", cmyk="destination",
        ),
        Policy(
            "Office documents",
            (
                _BLACK_TEXT,
                Row(Catches(spaces=("RGB",), objects=("text", "line art"), color="solids"), CleanSolids()),
                Row(Catches(objects=("text", "line art"), color="near neutral"), BlackOnly()),
                Row(Catches(objects=("image", "shading")), Convert(intent="perceptual")),
                Row(_ALL, Convert(intent="relative")),
            ),
            rgb="sRGB", cmyk="destination", profiles_count=False,
        ),
        Policy(
            "Newsprint, gray kept",
            (
                Row(Catches(spaces=("gray",)), BlackOnly()),
                Row(Catches(color="near neutral"), BlackOnly()),
                Row(Catches(color="pure ink"), Leave()),
                Row(_ALL, Convert(intent="perceptual", black="ucr", preserve=("pure black",))),
            ),
            rgb="sRGB", cmyk="destination",
        ),
    )
}  # fmt: skip
