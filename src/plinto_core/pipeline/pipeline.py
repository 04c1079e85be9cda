"""Stages in a row, each beginning in the space where the one before it ends."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.errors import PipelineError
from plinto_core.pipeline.space import Space

Array = NDArray[np.float64]


class Stage(Protocol):
    """A named step from values (..., channels of `source`) to values (..., channels of `target`)."""

    @property
    def name(self) -> str:
        """What the step is called, where it is told."""
        ...

    @property
    def source(self) -> Space:
        """Where it begins."""
        ...

    @property
    def target(self) -> Space:
        """Where it ends."""
        ...

    def apply(self, values: ArrayLike) -> Array:
        """The values after this step, float64."""
        ...


@dataclass(frozen=True)
class Step:
    """A stage made of a function over arrays; `key` names all that the function depends on."""

    name: str
    source: Space
    target: Space
    function: Callable[[Array], Array]
    key: str = ""

    def apply(self, values: ArrayLike) -> Array:
        """The function's values."""
        return self.function(np.asarray(values, np.float64))


@dataclass(frozen=True)
class Traced:
    """What a stage really gave: its name, the space, and values (n, channels)."""

    name: str
    space: Space
    values: Array


@dataclass(frozen=True)
class Pipeline:
    """One stage or more. Raises `PipelineError` where two neighbors do not fit."""

    stages: tuple[Stage, ...]

    def __post_init__(self) -> None:
        if not self.stages:
            raise PipelineError("A conversion needs one step at least.")
        for before, after in zip(self.stages, self.stages[1:], strict=False):
            if before.target.channels != after.source.channels:
                raise PipelineError(
                    f"'{before.name}' gives {', '.join(before.target.channels)}, and '{after.name}' takes "
                    f"{', '.join(after.source.channels)}. Put a step between them, or choose another profile."
                )

    @property
    def source(self) -> Space:
        """Where the first stage begins."""
        return self.stages[0].source

    @property
    def target(self) -> Space:
        """Where the last stage ends."""
        return self.stages[-1].target

    def apply(self, values: ArrayLike) -> Array:
        """Values (..., channels in) to values (..., channels out) of the last stage."""
        found = np.asarray(values, np.float64)
        for stage in self.stages:
            found = stage.apply(found)
        return found

    def trace(self, values: ArrayLike) -> tuple[Traced, ...]:
        """What every stage gives for values (n, channels in), each under its own name."""
        found, told = np.asarray(values, np.float64), []
        for stage in self.stages:
            found = stage.apply(found)
            told.append(Traced(stage.name, stage.target, found))
        return tuple(told)

    def then(self, other: "Pipeline") -> "Pipeline":
        """This, and the other behind it. Raises `PipelineError` where they do not fit."""
        return Pipeline((*self.stages, *other.stages))

    def up_to(self, name: str) -> "Pipeline":
        """The stages up to the last one of this name, it included. Raises `PipelineError` without one."""
        last = max((at for at, stage in enumerate(self.stages) if stage.name == name), default=None)
        if last is None:
            raise PipelineError(f"No step is called '{name}'; there are {', '.join(s.name for s in self.stages)}.")
        return Pipeline(self.stages[: last + 1])

    @property
    def digest(self) -> str:
        """SHA-256 of the names, spaces and keys of all stages: the same for the same conversion."""
        parts = [repr((stage.name, stage.source, stage.target, getattr(stage, "key", ""))) for stage in self.stages]
        return hashlib.sha256("\n".join(parts).encode()).hexdigest()
