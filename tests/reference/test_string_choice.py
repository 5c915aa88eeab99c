"""Choice of strings against Mersenne's law, published totals and facts of the trade."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.catalogue.load import shipped
from creekbed.core.errors import BadInput
from creekbed.core.strings.choice import StatedString, Wanted, ask_for, fit_of, fits, target_n, whole_set
from creekbed.core.strings.tension import pitch_hz
from creekbed.words.strings import ask_words, off_words, risk_words, set_words
from creekbed.workshop.supplies.string_choice import plain_of, stated_strings, wanted_strings

CATALOGUE = shipped()
E5 = StatedString("e", "E", 78.0, 328.0, pitch_hz("E5"), "steel", 3)


def wanted(size: str, family: str = "violin") -> dict[str, Wanted]:
    return {w.key: w for w in wanted_strings(CATALOGUE, CATALOGUE.families[family], size)}


def test_a_full_size_set_is_what_literature_says() -> None:
    """Total tension of a violin about 220 N, down-force about 90 N at 158°: Fletcher and Rossing, from memory."""
    violin = CATALOGUE.families["violin"]
    every = stated_strings(CATALOGUE, violin)
    chosen = [fits(every, w)[0] for w in wanted("4/4").values()]
    found = whole_set(chosen, 158.0)
    assert [f.string.key for f in chosen] == [s.stock for s in reversed(violin.stringed.strings)]  # type: ignore[union-attr]
    assert found.total_n == pytest.approx(220, rel=0.08) and found.bridge_n == pytest.approx(90, rel=0.08)
    assert found.bridge_n == pytest.approx(2 * found.total_n * math.cos(math.radians(79)))
    assert found.uneven == pytest.approx(78 / 47)
    assert "Together they pull 232 N and press 89 N" in set_words(found)


def test_a_full_size_string_on_a_small_violin_is_too_slack_by_number() -> None:
    """T ∝ L² at one pitch: (258/328)² = 0.619 of its tension on a quarter size, 21 % below the house's target."""
    a = wanted("1/4")["A"]
    full = next(s for s in stated_strings(CATALOGUE, CATALOGUE.families["violin"]) if s.key == "string_violin_a")
    fit = fit_of(full, a)
    assert fit.tension_n == pytest.approx(58 * (258 / 328) ** 2)
    assert fit.off == pytest.approx(258 / 328 - 1) and fit.band == "too_slack"
    assert off_words(fit) == "21 % less than wanted" and "dull" in risk_words(fit)
    half = fit_of(full, wanted("1/2")["A"])
    assert half.band == "slack"


@given(st.floats(20, 150), st.floats(200, 1100), st.floats(0.4, 1.0), st.floats(40, 700), st.floats(0.5, 2.0))
def test_what_is_asked_for_pulls_just_what_is_wanted(
    stated: float, full: float, size: float, hz: float, other: float
) -> None:
    length = full * size
    want = Wanted("x", "x", length, hz, target_n(stated, length, full), full)
    ask = ask_for(want)
    bought = StatedString("new", "new", ask.tension_n, full, hz)
    assert fit_of(bought, want).tension_n == pytest.approx(want.target_n)
    elsewhere = StatedString("new", "new", ask.tension_n * other**2, full, hz * other)
    assert fit_of(elsewhere, want).off == pytest.approx(0, abs=1e-9)


def test_a_plain_string_knows_when_it_breaks() -> None:
    """Steel music wire at 648 mm: E4 of 0.010 in breaks some four semitones above E4: that goes with length
    and pitch, hardly with thickness (ASTM A228 by Shigley, from memory)."""
    w = Wanted("E4", "high E", 647.7, pitch_hz("E4"), 72.5, 647.7)
    thin = fit_of(StatedString("t", "t", 72.5, 647.7, pitch_hz("E4"), "steel"), w)
    thick = fit_of(StatedString("t", "t", 104.0, 647.7, pitch_hz("E4"), "steel"), w)
    assert thin.margin_cents == pytest.approx(thick.margin_cents, abs=30) and 250 < thin.margin_cents < 700  # type: ignore[operator]
    assert thin.stretch is not None and 1e-6 < thin.stretch < 1e-4
    high = fit_of(E5, Wanted("E", "E", 328.0, pitch_hz("E5") * 1.42, 78.0 * 2.0, 328.0))
    assert high.margin_cents is not None and high.margin_cents < 200 and "breaks" in risk_words(high)


def test_a_string_that_pulls_more_than_it_is_made_for() -> None:
    tight = fit_of(StatedString("d", "d", 49.0, 372.0, pitch_hz("D4")), wanted("4/4")["A"])
    assert tight.tension_n > 49.0 * 1.15 and "more than its maker states" in risk_words(tight)


def test_only_what_can_go_on_it_is_offered() -> None:
    """No guitar string on a violin; a viola's may be; one of the shop's own that no family names may be for any."""
    keys = {s.key for s in stated_strings(CATALOGUE, CATALOGUE.families["violin"])}
    assert {k.split("_")[1] for k in keys} == {"violin", "viola"}
    acoustic = {s.key for s in stated_strings(CATALOGUE, CATALOGUE.families["acoustic_guitar"])}
    assert {k.split("_")[1] for k in acoustic} == {"guitar"}


def test_every_family_and_size_has_its_targets() -> None:
    for family in CATALOGUE.families.values():
        if family.stringed is None:
            continue
        for size in family.stringed.length_mm:
            rows = wanted_strings(CATALOGUE, family, size)
            assert len(rows) == len(family.stringed.strings) and all(w.target_n > 0 for w in rows)
            assert [w.hz for w in rows] == sorted((w.hz for w in rows), reverse=True)


def test_what_cannot_be_is_refused() -> None:
    violin = CATALOGUE.families["violin"]
    with pytest.raises(BadInput, match="no size"):
        wanted_strings(CATALOGUE, violin, "9/4")
    with pytest.raises(BadInput, match="has no strings"):
        wanted_strings(CATALOGUE, CATALOGUE.families["trumpet"], "B flat")
    with pytest.raises(BadInput, match="No string is chosen"):
        whole_set([])
    with pytest.raises(BadInput, match="angle"):
        whole_set([fit_of(E5, wanted("4/4")["E"])], 60.0)
    with pytest.raises(BadInput):
        target_n(0.0, 300.0, 328.0)
    assert fits([StatedString("far", "far", 500.0, 328.0, 100.0)], wanted("4/4")["E"]) == []


def test_the_dealer_is_asked_in_words() -> None:
    ask = ask_for(wanted("1/4")["E"], plain_of(CATALOGUE, CATALOGUE.families["violin"], "E"))
    assert ask.tension_n == pytest.approx(78 * 328 / 258)
    assert ask.diameter_mm == pytest.approx(0.2933, abs=1e-4)  # μ = T/(4L²f²) = 5.303e-4 kg/m of steel, by hand
    assert ask_words(ask, 328.0).startswith("Ask for one stated 99 N at 328 mm, 0.29")
    full = ask_for(wanted("4/4")["E"], "steel")
    assert full.diameter_mm == pytest.approx(0.26, abs=0.01)  # a plain E of 0.26 mm: common practice, no source
