"""Conversions as values: what fits, what every stage gives, and a recipe as one list of stages."""

import numpy as np
import pytest

from plinto_core.chain.compiled import compile_recipe
from plinto_core.errors import PipelineError
from plinto_core.icc.standard import rgb_profile
from plinto_core.pipeline.pipeline import Pipeline, Step
from plinto_core.pipeline.space import LAB, space_of
from plinto_core.recipe import AimStation, InkStation, Recipe
from plinto_core.recipe.limits import InkLimits

SRGB = space_of(rgb_profile("sRGB"))


def test_stages_that_do_not_fit_are_refused_and_those_that_do_are_joined():
    half = Step("half", SRGB, SRGB, lambda values: values / 2, "a half")
    lab = Step("lab", SRGB, LAB, lambda values: values * 100)
    with pytest.raises(PipelineError, match=r"'lab' gives L\*, a\*, b\*, and 'half' takes R, G, B"):
        Pipeline((lab, half))
    with pytest.raises(PipelineError, match="one step at least"):
        Pipeline(())
    both = Pipeline((half,)).then(Pipeline((lab,)))
    assert both.apply([[1.0, 0.5, 0.0]]).tolist() == [[50, 25, 0]] and (both.source, both.target) == (SRGB, LAB)
    assert [(each.name, each.values.tolist()) for each in both.trace([[1.0, 1.0, 1.0]])] == [
        ("half", [[0.5] * 3]),
        ("lab", [[50.0] * 3]),
    ]
    assert both.up_to("half") == Pipeline((half,)) and both.digest != both.up_to("half").digest
    with pytest.raises(PipelineError, match="No step is called 'ink'; there are half, lab"):
        both.up_to("ink")


@pytest.mark.parametrize("intent", ["relative", "perceptual", "absolute"])
def test_a_recipe_is_one_list_of_stages_and_its_trace_is_what_they_give(intent, condition):
    press = condition("halden-silk-150")
    recipe = Recipe(aim=AimStation(intent), ink=InkStation(limits=InkLimits(300.0)))
    line = compile_recipe(recipe, press, rgb_profile("sRGB"))
    device = np.random.default_rng(4).random((20, 3))
    told = {each.name: each.values for each in line.pipeline.trace(device)}
    assert list(told) == ["adjust", "source", "match", "aim", "ink"]
    trace = line.trace(device)
    assert np.array_equal(told["match"], trace.want_lab) and np.array_equal(told["aim"], trace.aim_lab)
    # The trace tells codes as they are written, on the grid; the pipeline is exact.
    assert np.abs(told["ink"] - trace.inks).max() < 0.05 and np.array_equal(told["ink"], line.inks(device))
    assert line.pipeline.digest == compile_recipe(recipe, press, rgb_profile("sRGB")).pipeline.digest
