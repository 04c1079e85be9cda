"""What a separation costs, by hand."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinto_core.analysis.cost import Costs, InkCost, area_m2, cost_of, cost_of_sheet, costs_from_file
from plinto_core.errors import RecipeError

COSTS = Costs({"C": InkCost(1.2, 20.0), "K": InkCost(2.0, 10.0)}, 0.25, "EUR")


def test_grams_and_money_are_those_of_a_calculation_by_hand():
    # 2540 × 1270 pixels at 254 ppi are 254 × 127 mm.
    area = area_m2(2540, 1270, 254.0)
    assert area == pytest.approx(0.254 * 0.127)
    found = cost_of({"C": 50.0, "K": 10.0, "M": 5.0}, area, COSTS, 1000)
    assert found.grams == pytest.approx({"C": 0.5 * area * 1000 * 1.2, "K": 0.1 * area * 1000 * 2.0})
    assert found.ink_money["C"] == pytest.approx(found.grams["C"] / 1000 * 20)
    assert found.medium_money == pytest.approx(area * 1000 * 0.25)
    assert found.total_money == pytest.approx(sum(found.ink_money.values()) + found.medium_money)
    assert found.unknown == ("M",)


@given(st.floats(0, 100), st.floats(0.01, 10), st.integers(1, 1000))
def test_cost_goes_with_area_copies_and_coverage(percent, area, copies):
    one = cost_of({"C": percent}, area, COSTS)
    assert cost_of({"C": percent}, area, COSTS, copies).total_money == pytest.approx(copies * one.total_money)
    assert cost_of({"C": percent}, 2 * area, COSTS).grams["C"] == pytest.approx(2 * one.grams["C"])


@pytest.mark.parametrize(
    "data", [b"[]", b"{", b'{"inks": {"C": 3}}', b'{"inks": {"C": {"laydown_g_m2": -1, "price_per_kg": 2}}}',
             b'{"inks": {"C": {"laydown_g_m2": 1e999, "price_per_kg": 2}}}', b'{"medium_per_m2": -1}'],
)  # fmt: skip
def test_costs_that_are_none_are_refused(data):
    with pytest.raises(RecipeError):
        costs_from_file(data, "costs.json")


def test_a_sheet_without_size_or_inks_is_refused():
    sheet = {"mean_coverage_percent": {"C": 10}, "artwork": {"width": 100, "height": 100, "resolution_ppi": None}}
    with pytest.raises(RecipeError, match="no size"):
        cost_of_sheet(sheet, COSTS)
    with pytest.raises(RecipeError, match="no coverage"):
        cost_of_sheet({**sheet, "mean_coverage_percent": {}}, COSTS)
    assert costs_from_file(json.dumps({"inks": {}, "currency": "CHF"}).encode(), "c.json").currency == "CHF"
