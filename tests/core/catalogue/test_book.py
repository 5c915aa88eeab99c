"""The book of the bench and imagined jobs."""

from __future__ import annotations

import pytest

from creekbed.core.catalogue.book import SECTIONS, lines, search, sounding
from creekbed.core.catalogue.load import shipped
from creekbed.core.catalogue.surfaces import questions
from creekbed.core.conventions import Conventions, trying
from creekbed.core.errors import BadInput
from creekbed.core.procedure.build import build
from creekbed.core.procedure.imagine import family_table, find_family, imagine, step_table
from creekbed.core.procedure.situation import intervals

CATALOGUE = shipped()


@pytest.mark.parametrize("key", sorted(CATALOGUE.families))
def test_every_family_has_its_pages(key: str) -> None:
    family = CATALOGUE.families[key]
    found = lines(CATALOGUE, family, {})
    sections = {x.section for x in found}
    assert sections <= set(SECTIONS) and {"parts", "job", "rules", "cautions", "case", "numbers"} <= sections
    for line in found:
        assert line.title and "{" not in line.title + line.words and line.source and line.origin
    assert {x.key for x in found if x.section == "parts"} == {p.key for p in family.part}
    assert {x.key for x in found if x.section == "job"} == {s.key for s in family.step}


def test_the_book_follows_the_house_rules() -> None:
    clarinet = CATALOGUE.families["clarinet"]
    job = [x.key for x in lines(CATALOGUE, clarinet, {"clarinet_pulls": "whole"}) if x.section == "job"]
    plain = [x.key for x in lines(CATALOGUE, clarinet, {}) if x.section == "job"]
    assert job.index("whole_swab") < len(job) - 8 and plain.index("upper_swab") < plain.index("whole_swab")


def test_search_finds_what_holds_every_word_titles_first() -> None:
    found = search(CATALOGUE, {}, "register tube")
    assert found and all("register tube" in f"{x.title} {x.words}".lower() for x in found)
    assert {x.family for x in found} <= {"clarinet", "bass_clarinet"}
    by_title = search(CATALOGUE, {}, "end plug")
    assert "end plug" in by_title[0].title.lower()
    assert search(CATALOGUE, {}, "  ") == [] and search(CATALOGUE, {}, "xylophone beater") == []


def test_the_same_line_of_several_families_stands_once() -> None:
    found = [x for x in search(CATALOGUE, {}, "finger touches") if x.key == "outside"]
    assert len({(x.title, x.words) for x in found}) == len(found)
    assert any(x.others >= 1 for x in search(CATALOGUE, {}, "ligature crushed"))


@pytest.mark.parametrize(
    ("semitones", "words"),
    [  # common practice, no source
        (-2, "sounds a major second lower"), (-9, "sounds a major sixth lower"), (-14, "sounds a major ninth lower"),
        (-21, "sounds an octave and a major sixth lower"), (12, "sounds an octave higher"), (0, "sounds as written"),
        (-7, "sounds a fifth lower"), (5, "sounds 5 semitones higher"),
    ],
)  # fmt: skip
def test_transposition_in_words(semitones: int, words: str) -> None:
    assert sounding(semitones) == words


def test_families_are_found_by_name_and_key() -> None:
    assert find_family(CATALOGUE, "B flat clarinet").key == "clarinet"
    assert find_family(CATALOGUE, "  double_bass ").key == "double_bass"
    with pytest.raises(BadInput, match="no family") as caught:
        find_family(CATALOGUE, "saxophone")
    assert "Alto saxophone" in caught.value.todo


@pytest.mark.parametrize(
    ("more", "match"),
    [
        ({"size": "7/8"}, "size"), ({"policies": {"tea": "green"}}, "house rule"),
        ({"policies": {"clarinet_apart": "sideways"}}, "choice"), ({"materials": {"upper": "cheese"}}, "materials"),
        ({"findings": {"gong": "x"}}, "check"), ({"findings": {"pads": "low Z: wet"}}, "place"),
        ({"findings": {"pads": "low F: dusty"}}, "answer"), ({"findings": {"mouthpiece": "green"}}, "answer"),
        ({"missing": ["gong"]}, "piece"), ({"finishes": {"upper": "lacquer"}}, "finishes"),
    ],
)  # fmt: skip
def test_an_imagined_job_takes_only_what_exists(more: dict[str, object], match: str) -> None:
    with pytest.raises(BadInput, match=match):
        imagine(CATALOGUE, CATALOGUE.families["clarinet"], **more)  # type: ignore[arg-type]


def test_findings_as_people_write_them() -> None:
    flute = CATALOGUE.families["flute"]
    found = imagine(CATALOGUE, flute, findings={"head_cork": "7/8 in", "pads": "trill, upper: wet, G: sticks"})
    assert found.findings["head_cork"].band == "act"  # 22.2 mm
    assert found.places["pads"] == {"trill, upper": "wet", "G": "sticks"}


def test_tables_for_machines_are_whole() -> None:
    trumpet = CATALOGUE.families["trumpet"]
    steps = [step_table(s) for s in build(CATALOGUE, imagine(CATALOGUE, trumpet))]
    bath = next(s for s in steps if s["key"] == "bath")
    assert bath["wait"]["max_min"] == 30.0 and bath["mark_words"] and "soap" in bath["agents"]
    assert any(m["never"] for s in steps for m in s["moves"])
    table = family_table(CATALOGUE, CATALOGUE.families["double_bass"])
    assert table["strings"] == ["E1", "A1", "D2", "G2"] and table["sounds_semitones"] == -12


def test_intervals_follow_the_policy() -> None:
    sax = CATALOGUE.families["alto_saxophone"]
    grease = {c: next(d.every_days for d in intervals(CATALOGUE, sax, {"cork_grease": c}) if "grease" in d.what)
              for c in ("by_feel", "weekly")}  # fmt: skip
    assert grease == {"by_feel": 60.0, "weekly": 7.0}


@pytest.mark.parametrize(
    ("family", "parts"),
    [("clarinet", {"barrel", "mouthpiece"}), ("trumpet", {"mouthpiece", "body"}), ("violin", set()),
     ("acoustic_guitar", {"body"}), ("oboe", {"upper"})],
)  # fmt: skip
def test_a_new_instrument_is_asked_only_what_steps_depend_on(family: str, parts: set[str]) -> None:
    found = questions(CATALOGUE.families[family])
    asked = {part for q in found for part in q.parts}
    assert asked >= parts if parts else not found
    for question in found:
        assert len(question.choices) > 1 and len(set(question.parts)) == len(question.parts)


def test_no_text_names_a_temperature_in_other_units_than_the_shop() -> None:
    """Neither a step of a plain job nor a line of the reference."""
    with trying(Conventions(units="us")):
        for family in CATALOGUE.families.values():
            for step in build(CATALOGUE, imagine(CATALOGUE, family)):
                assert "°C" not in f"{step.what} {step.amount} {step.how} {step.caution} {step.reason} {step.note}"
            for line in lines(CATALOGUE, family, {}):
                assert "°C" not in f"{line.title} {line.words}", line
    tuba = CATALOGUE.families["tuba"]
    with trying(Conventions(units="us")):
        assert any("Above 104 °F" in x.words for x in lines(CATALOGUE, tuba, {}))
    assert any("Above 40 °C" in x.words for x in lines(CATALOGUE, tuba, {}))
