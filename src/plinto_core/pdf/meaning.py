"""What a document's values mean: a profile and values for it, by the document's own word or by what a policy assumes."""

from dataclasses import dataclass, field
from typing import ClassVar

import numpy as np

from plinto_core.colorimetry.lab import D50_XYZ, lab_to_xyz, xyz_to_lab
from plinto_core.errors import DocumentError, IccError, PolicyError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.icc.standard import gray_as_rgb
from plinto_core.pdf.function import Array
from plinto_core.pdf.space import DocumentSpace
from plinto_core.policy.conversion import Destination, lab_as_rgb, lab_to_scaled, source_named
from plinto_core.policy.policy import Policy
from plinto_core.policy.spots import Spot


@dataclass
class Meaning:
    """How one policy reads one document: `intent` is the profile of its output intent, where it has one."""

    policy: Policy
    destination: Destination
    profiles: dict[str, Profile] = field(default_factory=dict)
    intent: Profile | None = None
    #: Whether values of RGB and CMYK spaces go to their profile as they are, so that pictures need no look at each.
    keeps_values: ClassVar[bool] = True

    def of(  # noqa: PLR0911 - one return a family
        self, space: DocumentSpace, values: Array
    ) -> tuple[Profile, Array]:
        """Values (n, channels) as the document has them, to a profile of RGB or CMYK and values (n, 3 or 4) for it, 0…1.

        A spot ink that the policy knows is what the policy says, alone or over others. Raises `PolicyError` where nobody
        says what they mean, and `DocumentError` for values that do not fit the space.
        """
        if values.shape[1] != space.channels:
            raise DocumentError(f"{values.shape[1]} values are given for {space.label}, which has {space.channels}")
        space, values = space.looked_up(values)
        if self.prints_known_spot(space, values):
            return lab_as_rgb(), lab_to_scaled(self._overprinted(space, values))
        if space.kind == "spot" and space.tint is not None and space.under is not None:
            return self.of(space.under, space.tint(values))
        if space.kind == "Lab":
            return lab_as_rgb(), lab_to_scaled(values)
        if space.source is not None and (self.policy.profiles_count or space.family.startswith("Cal")):
            if space.kind == "gray":
                return gray_as_rgb(space.source), np.repeat(values, 3, axis=1)
            return space.source, values
        if space.under is not None and space.family == "ICCBased":
            return self.of(space.under, values)
        return self._assumed(space, values)

    def known_spots(self, space: DocumentSpace) -> dict[int, Spot]:
        """The inks of a Separation or DeviceN whose color the policy knows, by their channel."""
        found = ((channel, self.policy.spot(name)) for channel, name in enumerate(space.names))
        return {channel: spot for channel, spot in found if spot is not None}

    def prints_known_spot(self, space: DocumentSpace, values: Array) -> bool:
        """Whether an ink that the policy knows takes part in values (n, channels)."""
        space, values = space.looked_up(values)
        return any(values[:, channel].any() for channel in self.known_spots(space))

    def _overprinted(self, space: DocumentSpace, values: Array) -> Array:
        """Lab (n, 3) of values (n, channels): each known ink lets through of what lies below it what it lets through of
        paper, in XYZ; all others together are what the document says of them."""
        known = self.known_spots(space)
        through = lab_to_xyz([spot.tints(values[:, channel]) for channel, spot in known.items()]) / D50_XYZ
        if len(known) < space.channels:
            others = values.copy()
            others[:, list(known)] = 0.0
            source, device = self.of(space, others)
            through = np.vstack([through, lab_to_xyz(cmm.to_lab(source, device))[None] / D50_XYZ])
        return xyz_to_lab(through.prod(axis=0) * D50_XYZ)

    def _assumed(self, space: DocumentSpace, values: Array) -> tuple[Profile, Array]:
        named = {"gray": self.policy.gray, "RGB": self.policy.rgb, "CMYK": self.policy.cmyk}[space.kind]
        if self.policy.intent_wins and self.intent is not None:
            if self.intent.header.space == {"RGB": "RGB ", "CMYK": "CMYK"}.get(space.kind):
                return self.intent, values
            if space.kind == "gray" and self.intent.header.space == "CMYK":
                return self.intent, _as_black(values)
        source = source_named(named, self.destination, self.profiles)
        if source is None:
            raise PolicyError(
                f"{space.kind} has no profile here, and the policy assumes none. Say in the policy what it means, or ask "
                "the sender."
            )
        expected = {"gray": 3, "RGB": 3, "CMYK": 4}[space.kind]
        if space.kind == "gray" and source.header.space == "CMYK":
            return source, _as_black(values)
        if source.header.space == "GRAY" and space.kind == "gray":
            return gray_as_rgb(source), np.repeat(values, 3, axis=1)
        if source.header.channels != expected or source.header.space == "GRAY":
            raise PolicyError(
                f"The policy assumes '{source.name}' for {space.kind}, which is a profile of {source.header.space.strip()}."
            )
        return source, np.repeat(values, 3, axis=1) if space.kind == "gray" else values

    def lab(self, space: DocumentSpace, values: Array) -> Array | None:
        """Media-relative Lab (n, 3) of values, None where nobody says what they mean."""
        try:
            source, device = self.of(space, values)
            return cmm.to_lab(source, device)
        except (PolicyError, IccError, DocumentError):
            return None


def _as_black(gray: Array) -> Array:
    """Gray (n, 1) as black ink alone (n, 4)."""
    return np.hstack([np.zeros((len(gray), 3)), 1 - gray])
