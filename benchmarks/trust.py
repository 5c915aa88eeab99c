"""How far each number may be trusted: intervals tried in worlds that their estimators did not assume.

    python -m benchmarks.trust                     a table of all subjects
    python -m benchmarks.trust leak --cases 300    one subject
    python -m benchmarks.trust --write             into docs/trust.md

Coverage is how many of a hundred intervals that are stated as 95 % hold the truth; bias is the median of (value −
truth), as a share of the truth or in the unit that is said. What a world's cases were refused with is counted apart:
a refusal in words is no wrong number.
"""

from __future__ import annotations

import argparse
import re
import statistics
import sys
import warnings
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from creekbed.core.errors import BadInput, CreekbedError
from creekbed.core.trust import TRIED, tried

PAGE = Path(__file__).parents[1] / "docs" / "trust.md"


@dataclass(frozen=True)
class Told:
    """One answer: value, the ends of its 95 % interval, and what it said besides."""

    value: float
    low: float
    high: float
    truth: float
    words: tuple[str, ...] = ()


@dataclass(frozen=True)
class Row:
    """One world: of how many cases how many answered, covered, and how far off the middle one was."""

    subject: str
    world: str
    cases: int
    answered: int
    covered: float
    bias: float
    unit: str
    refused: str

    def line(self) -> str:
        """As a row of the table."""
        covered = f"{self.covered:.0f}" if self.answered else "none"
        bias = f"{self.bias:+.1f} {self.unit}" if self.answered else ""
        return f"| {self.world} | {self.cases} | {self.answered} | {covered} | {bias} | {self.refused} |"


ALARM = "called dry while wet"


def count(subject: str, world: str, cases: int, one: Callable[[np.random.Generator], Told], unit: str = "%") -> Row:
    """Try a world so many times, always the same cases.

    Args:
        one: draws a case and answers it; what it refuses is counted. unit: of the bias; "%": of the truth.
    """
    told: list[Told] = []
    refused: Counter[str] = Counter()
    for n in range(cases):
        try:
            told.append(one(np.random.default_rng([n, *world.encode()])))
        except CreekbedError as error:
            refused[re.sub(r"[0-9]+(\.[0-9]+)?", "…", error.happened.partition(": ")[0])] += 1
    inside = sum(t.low <= t.truth <= t.high for t in told)
    off = [(t.value - t.truth) / (t.truth / 100 if unit == "%" and t.truth else 1.0) for t in told]
    said = "; ".join(f"{words} ({n})" for words, n in refused.most_common(2))
    alarms = sum(t.words == (ALARM,) for t in told)
    if alarms:
        said = f"{ALARM}: {alarms}" + (f"; {said}" if said else "")
    return Row(
        subject, world, cases, len(told), round(100 * inside / max(len(told), 1), 1),
        statistics.median(off) if off else 0.0,
        unit, said,
    )  # fmt: skip


def leak(cases: int) -> Iterator[Row]:
    """The leak of a closed joint."""
    from tests.worlds import leaks

    from creekbed.core.airtight.decay import fit_leak

    def answer(world: leaks.World) -> Callable[[np.random.Generator], Told]:
        def one(rng: np.random.Generator) -> Told:
            case = world(rng)
            fit = fit_leak(case.t.tolist(), case.p.tolist(), case.volume_l)
            value, wide = fit.flow.value, fit.flow.expanded
            return Told(value, value - wide, value + wide, case.flow, fit.notes)

        return one

    for name, world in leaks.WORLDS.items():
        unit = "ml/min" if name == "airtight" else "%"
        yield count("Leak, ml/min at 2.5 kPa", name, cases, answer(world), unit)


def drying(cases: int) -> Iterator[Row]:
    """Water left by weighing."""
    from tests.worlds import dryings

    from creekbed.core.climate.drying import fit_drying

    def answer(world: dryings.World) -> Callable[[np.random.Generator], Told]:
        def one(rng: np.random.Generator) -> Told:
            case = world(rng)
            fit = fit_drying(case.minutes.tolist(), case.grams.tolist(), dryings.LIMIT, step_g=case.step)
            wrong = fit.is_dry and case.left > dryings.LIMIT
            return Told(fit.left_g, *fit.left_95, case.left, (ALARM,) if wrong else ())

        return one

    for name, world in dryings.WORLDS.items():
        yield count("Water left by weighing, g", name, cases, answer(world), "g")


def dry_wait(cases: int) -> Iterator[Row]:
    """Minutes until it is dry enough, by weighing."""
    from tests.worlds import dryings

    from creekbed.core.climate.drying import fit_drying

    def answer(world: dryings.World) -> Callable[[np.random.Generator], Told]:
        def one(rng: np.random.Generator) -> Told:
            case = world(rng)
            fit = fit_drying(case.minutes.tolist(), case.grams.tolist(), dryings.LIMIT, step_g=case.step)
            return Told(fit.minutes, *fit.minutes_95, case.wait)

        return one

    for name, world in dryings.WORLDS.items():
        yield count("Minutes until it is dry enough, by weighing", name, cases, answer(world), "min")


def acclimatise(cases: int) -> Iterator[Row]:
    """When a case may be opened, by its thermometer."""
    from tests.worlds import cases as worlds

    from creekbed.core.climate.case_fit import LEAST_U_C, fit_case

    def answer(world: worlds.World) -> Callable[[np.random.Generator], Told]:
        def one(rng: np.random.Generator) -> Told:
            case = world(rng)
            fit = fit_case(case.minutes.tolist(), case.celsius.tolist(), case.room, case.house_tau, LEAST_U_C)
            best, soon, late = fit.until(worlds.TOLERANCE)
            return Told(best, soon, late, case.wait)

        return one

    for name, world in worlds.WORLDS.items():
        yield count("Wait of a closed case by its thermometer, min", name, cases, answer(world), "min")


def friction(cases: int) -> Iterator[Row]:
    """Friction of a hand slide by a drop."""
    from tests.worlds import drops

    from creekbed.core.inspection.friction import from_drop

    def answer(world: drops.World) -> Callable[[np.random.Generator], Told]:
        def one(rng: np.random.Generator) -> Told:
            case = world(rng)
            found = from_drop(case.mass, case.drop, case.time, case.by, frames_per_s=case.frames).ratio  # type: ignore[arg-type]
            return Told(found.value, found.value - found.expanded, found.value + found.expanded, case.ratio)

        return one

    for name, world in drops.WORLDS.items():
        yield count("Friction of a hand slide by a drop, of its weight", name, cases, answer(world), "")


def photograph(cases: int) -> Iterator[Row]:
    """Lengths, circles, bows and leans in a photograph."""
    from tests.worlds import photos

    from creekbed.core.inspection.photo import Placings, card, measure, ruler

    def answer(world: photos.World, twice: bool) -> Callable[[np.random.Generator], Told]:
        def one(rng: np.random.Generator) -> Told:
            case = world(rng)
            known = card(case.corners) if case.known == "card" else ruler(case.corners, case.ruler_mm)
            placed = Placings()
            if twice:
                placed = placed.and_(list(zip([*case.corners, *case.points], case.again, strict=True)))
            found = measure(case.kind, known, case.points, u_px=placed.u_px)
            value = abs(found.value) if case.kind == "lean" else found.value
            return Told(value, value - found.expanded, value + found.expanded, case.truth)

        return one

    for name, world in photos.WORLDS.items():
        yield count("Measured in a photograph", name, cases, answer(world, name.endswith("twice")))


def pitch(cases: int) -> Iterator[Row]:
    """The pitch of a tone."""
    from tests.worlds import tones

    from creekbed.core.sound.pitch import pitch_of

    def answer(world: tones.World) -> Callable[[np.random.Generator], Told]:
        def one(rng: np.random.Generator) -> Told:
            case = world(rng)
            found = pitch_of(case.sound, tones.RATE, case.kind)
            if found is None:
                raise BadInput("No tone is heard.")
            off = found.cents_from(case.hz)
            return Told(off, off - 1.96 * found.u_cents, off + 1.96 * found.u_cents, 0.0)

        return one

    for name, world in tones.WORLDS.items():
        yield count("Pitch of a tone, cents", name, cases, answer(world), "cents")


def settling(cases: int) -> Iterator[Row]:
    """When a new string wants its next retune, and how flat it is after a day."""
    from tests.worlds import settling as worlds

    from creekbed.core.strings.forecast import Drop, Kind, forecast

    def answer(world: worlds.World, day: bool) -> Callable[[np.random.Generator], Told]:
        def one(rng: np.random.Generator) -> Told:
            case = world(rng)
            rows = tuple(Drop(*row) for row in case.rows)
            ahead = forecast(
                Kind(12.0, 5.0), rows, tolerance_cents=worlds.TOLERANCE_CENTS, limit_cents=worlds.LIMIT_CENTS
            )
            if day:
                return Told(ahead.first_day.median, ahead.first_day.low, ahead.first_day.high, case.day_cents)
            return Told(ahead.next_min.median, ahead.next_min.low, ahead.next_min.high, case.next_min)

        return one

    for name, world in worlds.WORLDS.items():
        for day in (False, True):
            said = f"{name}: {'the first day' if day else 'the next retune'}"
            yield count("Settling strings: time of the next retune, drift of the first day", said, cases,
                        answer(world, day))  # fmt: skip


def chance(cases: int) -> Iterator[Row]:
    """Chances of being ready in time, in shops whose durations spread otherwise than the house's: given and made."""
    from benchmarks.chances import rows

    for wider in (1.0, 0.7, 1.4):
        found = rows(cases, wider)
        given, made = (100 * statistics.fmean(x[n] for x in found) for n in (0, 1))
        world = "durations spread as the house's" if wider == 1.0 else f"durations spread {wider:g} times as wide"
        yield Row(
            "Chances of being ready in time: given on average, and made", world, cases, len(found), made, given - made,
            "points", f"given {given:.1f} of 100",
        )  # fmt: skip


SUBJECTS: dict[str, Callable[[int], Iterator[Row]]] = {
    "leak": leak, "drying": drying, "dry_wait": dry_wait, "acclimatise": acclimatise, "friction": friction,
    "photograph": photograph, "pitch": pitch, "settling": settling,
    "chances": chance,
}  # fmt: skip
HEAD = "| world | cases | answered | covered of 100 | bias | refused with |\n|---|---|---|---|---|---|"


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("subject", nargs="*", choices=[*SUBJECTS, []], default=[])
    parser.add_argument("--cases", type=int, default=200)
    parser.add_argument("--write", action="store_true", help="into docs/trust.md")
    given = parser.parse_args()
    warnings.simplefilter("ignore")
    tables, kept = _written()
    for key in given.subject or SUBJECTS:
        said = []
        kept[key] = []
        for n, row in enumerate(SUBJECTS[key](given.cases)):
            if n == 0:
                said += [f"## {row.subject}\n", HEAD]
                print(said[-2], said[-1], sep="\n")
            said.append(row.line())
            kept[key].append(row)
            print(said[-1], flush=True)
        tables[key] = "\n".join(said)
    if given.write:
        _write(tables, kept)
    return 0


def _written() -> tuple[dict[str, str], dict[str, list[Row]]]:
    """Tables and rows of an earlier run, so that one subject can be tried anew."""
    tables: dict[str, str] = {}
    if PAGE.exists():
        for part in PAGE.read_text().split("<!-- table ")[1:]:
            key, _, body = part.partition(" -->\n")
            tables[key] = body.strip()
    kept: dict[str, list[Row]] = {}
    for key, worlds in tried().items():
        kept[key] = [Row(key, w.world, w.cases, w.answered, w.covered, 0.0, "", "") for w in worlds]
    return tables, kept


def _write(tables: dict[str, str], kept: dict[str, list[Row]]) -> None:
    text = PAGE.read_text().partition("<!-- table ")[0].rstrip() if PAGE.exists() else "# Trust"
    keys = [k for k in SUBJECTS if k in tables]
    PAGE.write_text(text + "\n\n" + "\n\n".join(f"<!-- table {k} -->\n{tables[k]}" for k in keys) + "\n")
    lines = [
        "# Written by benchmarks.trust: worlds in which intervals were tried, and in how many of a hundred they held."
    ]
    for key in (k for k in SUBJECTS if k in kept and k != "chances"):
        for row in kept[key]:
            lines += [
                "[[tried]]", f'subject = "{key}"', f'world = "{row.world}"', f"cases = {row.cases}",
                f"answered = {row.answered}", f"covered = {row.covered:.1f}",
            ]  # fmt: skip
    TRIED.write_text("\n".join(lines) + "\n")


if __name__ == "__main__":
    sys.exit(main())
