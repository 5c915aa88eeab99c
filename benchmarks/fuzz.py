"""Quantities, files and command lines made at random: each is answered, or refused in one line; none brings the program
down or makes it grow.

    python -m benchmarks.fuzz 100000

Everything runs in one process through ``creekbed.cli.main``. A case fails if anything but an exit status of 0, 1 or 2
comes of it, if a refusal is not one line, or if it takes longer than half a minute. Memory is read at the end.
"""

from __future__ import annotations

import argparse
import contextlib
import io
import random
import resource
import signal
import sys
import tempfile
from collections import Counter
from collections.abc import Callable, Mapping
from pathlib import Path

from creekbed.cli.show import plain_number

NUMBERS = (
    "1", "0", "-1", "0.5", "2,4", "1,000", "1.000,5", "1e9", "1e400", "nan", "inf", "-0", "½", "1 1/2", "3/0", "1/10",
    "99999999999999999999", "0.0000001", "−5", "--3", "", " ", "abc", "٣", "1:10", "1 + 9", "12", "440", "38", "50",
)  # fmt: skip
UNITS = (
    "", "mm", "cm", "m", "in", '"', "°", "%", "% v/v", "°C", "C", "F", "K", "ml", "l", "cups", "g", "kg", "lb",
    "oz", "N", "min", "h", "s", "ms", "Pa", "kPa", "mbar", "cmH2O", "inHg", "cents", "ppm", "mg/l", "bananas",
    "mm mm", "m^2", "[", "°°", "mm;rm", "\x00", "\n", "😀", "µm", "ml/min", "1", "x" * 300,
)  # fmt: skip
WORDS = (
    "alto_saxophone", "clarinet", "violin", "trumpet", "trombone", "flute", "bow", "Violin", "nothing",
    "clarinet/upper", "alto_saxophone/body", "pads", "bridge_lean", "none", "G sharp: sticks", "bleach", "vinegar",
    "soap", "hard_rubber", "A4", "h3", "Es4", "B♭3", "x9", "air", "length", "circle", "bow", "lean", "spruce",
    "MH-0142", "'; DROP TABLE job; --", "--json", "--", "-", "--found", "--read", "3,2,1", "1", "2", "yes",
    "brief", "20", "é",
)  # fmt: skip
COMMANDS = (
    "mix", "tension", "settle", "lean", "leak", "leak-pads", "friction", "valves", "photo", "check", "water",
    "may-touch", "never-together", "bath", "swab", "dew-point", "wood", "drying", "acclimatise", "storage", "job",
    "families",
)  # fmt: skip
HEADS = {
    "leak": ("time_s,pressure_pa", "time_ms,pressure_mbar", "time_s,pressure_inhg", "a,b", ""),
    "drying": ("time_min,weight_g", "weight_g,time_min", "x", ""),
    "storage": ("time,celsius,humidity_pct", "time", ""),
}
LONGEST_S = 30


def quantity(rng: random.Random) -> str:
    """A number with or without a unit, or something near one."""
    text = rng.choice(NUMBERS) + rng.choice((" ", "", "  ")) + rng.choice(UNITS)
    if rng.random() < 0.2 and text:
        at = rng.randrange(len(text))
        text = text[:at] + chr(rng.choice((32, 44, 46, 47, 58, 176, 8722, 9, 0x2028, 127, 233))) + text[at + 1 :]
    return text


def record(rng: random.Random, folder: Path, command: str) -> str:
    """A file of readings, in order or not, or no file at all."""
    path = folder / f"{rng.randrange(50)}.csv"
    kind = rng.random()
    if kind < 0.05:
        return str(folder / "not there.csv")
    if kind < 0.1:
        path.write_bytes(rng.randbytes(rng.randrange(2000)))
        return str(path)
    rows = [rng.choice(HEADS[command])]
    count, t = rng.choice((0, 1, 5, 20, 60)), 0.0
    for n in range(count):
        t += rng.choice((0.1, 1.0, 10.0, -3.0, 0.0)) if rng.random() < 0.05 else 0.5
        value = 2500 * 0.97**n + rng.gauss(0, 3) if command == "leak" else 400 + 8 * 0.9**n + rng.gauss(0, 0.05)
        a: object = f"2026-03-{1 + n % 28:02d}T{n % 24:02d}:00:00+00:00" if command == "storage" else t
        cells = [str(a), str(value), str(rng.gauss(50, 20))]
        if rng.random() < 0.03:
            cells[rng.randrange(3)] = rng.choice(("", "nan", "1e999", "x", "-5", '"', "1,2"))
        rows.append(",".join(cells[: rng.choice((1, 2, 2, 2, 3, 3))] if rng.random() < 0.05 else cells[:3]))
    path.write_text("\n".join(rows) + rng.choice(("", "\n", "\n\n")), encoding="utf-8")
    return str(path)


def line(rng: random.Random, folder: Path, parsers: Mapping[str, argparse.ArgumentParser]) -> list[str]:
    """A command line: a command, some of its options, and what stands in for their values."""
    command = rng.choice(COMMANDS)
    words, last = [command], []
    for action in parsers[command]._actions:
        required = action.required or not action.option_strings
        if action.dest == "help" or rng.random() > (0.97 if required else 0.4):
            continue
        takes = (
            action.nargs if isinstance(action.nargs, int) else 1 if action.nargs in (None, "?") else rng.randint(1, 3)
        )
        if isinstance(action, argparse._StoreTrueAction):
            takes = 0
        if rng.random() < 0.02:
            takes = rng.randrange(4)
        values = [_value(rng, folder, command, action) for _ in range(takes)]
        if action.option_strings:
            for _ in range(rng.randint(1, 5) if isinstance(action, argparse._AppendAction) else 1):
                words += [rng.choice(action.option_strings), *values]
                values = [_value(rng, folder, command, action) for _ in range(takes)]
        else:
            last += values
    words[1:1] = last
    if rng.random() < 0.03:
        words.insert(rng.randrange(len(words) + 1), rng.choice(WORDS))
    return words


def _value(rng: random.Random, folder: Path, command: str, action: argparse.Action) -> str:
    """Something for an option, mostly of the right kind."""
    sure = rng.random() < 0.9
    if sure and action.choices:
        return str(rng.choice(list(action.choices)))
    if action.dest == "csv":
        return record(rng, folder, command)
    if sure and action.dest in ("family", "what"):
        return rng.choice(WORDS[:11])
    if sure and action.type is plain_number:
        return str(round(rng.choice((rng.gauss(500, 400), rng.random(), rng.expovariate(0.1))), 3))
    return quantity(rng) if rng.random() < 0.75 else rng.choice(WORDS)


def parsers_of() -> dict[str, argparse.ArgumentParser]:
    """Every command's parser."""
    from creekbed.cli.main import _parser

    for action in _parser([])._actions:
        if isinstance(action, argparse._SubParsersAction):
            return dict(action.choices)
    return {}


STATUSES: Counter[int] = Counter()


def one(words: list[str]) -> str:
    """Run a command line; "" where it was answered or refused as it should, else what was wrong."""
    from creekbed.cli.main import main

    out, err = io.StringIO(), io.StringIO()
    signal.alarm(LONGEST_S)
    try:
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = main(words)
    except BaseException as error:  # noqa: BLE001  # whatever it is, it is no answer
        return f"{type(error).__name__}: {str(error)[:200]}"
    finally:
        signal.alarm(0)
    told = err.getvalue()
    STATUSES[status] += 1
    if status not in (0, 1, 2):
        return f"status {status}"
    if status == 1 and (told.count("\n") != 1 or len(told) > 1500 or "Traceback" in told):
        return f"not one line: {told[:300]!r}"
    return ""


def run(cases: int, seed: int = 1) -> tuple[Counter[str], list[tuple[str, list[str]]]]:
    """Try so many; how many of which command, and what went wrong."""
    rng, tried, wrong = random.Random(seed), Counter[str](), []
    parsers = parsers_of()
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        for _ in range(cases):
            words = line(rng, folder, parsers)
            tried[words[0]] += 1
            if problem := one(words):
                wrong.append((problem, words))
    return tried, wrong


def quantities(cases: int, seed: int = 2) -> list[str]:
    """So many quantities read in every unit that is wanted anywhere: what went wrong."""
    import math

    from creekbed.core.errors import CreekbedError
    from creekbed.core.hygiene.strengths import parse_strength
    from creekbed.core.units import parse_quantity

    rng, wrong = random.Random(seed), []
    wanted = ("millimeter", "degree", "percent", "degC", "milliliter", "liter", "minute", "newton", "gram", "kilogram",
              "second", "meter", "cent", "kilopascal", "turn", "dimensionless", "milliliter/minute")  # fmt: skip
    readers: list[Callable[[str], float]] = [lambda t, u=u: parse_quantity(t, u) for u in wanted]  # type: ignore[misc]
    readers.append(lambda t: parse_strength(t).percent)
    for _ in range(cases):
        text = quantity(rng)
        try:
            if not math.isfinite(rng.choice(readers)(text)):
                wrong.append(f"{text!r}: not finite")
        except CreekbedError as error:
            if "\n" in error.words() and "\n" not in text:
                wrong.append(f"{text!r}: {error.words()!r}")
        except Exception as error:  # noqa: BLE001  # whatever it is, it is no refusal
            wrong.append(f"{text!r}: {type(error).__name__} {error}")
    return wrong


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("cases", type=int, nargs="?", default=2000)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    odd = quantities(given.cases // 2, given.seed + 1)
    small = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    tried, wrong = run(given.cases - given.cases // 2, given.seed)
    grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - small
    for text in odd[:20]:
        print("quantity", text)
    for problem, words in wrong[:20]:
        print(problem, words)
    print(f"{given.cases // 2} quantities, {len(odd)} wrong; {sum(tried.values())} command lines, {len(wrong)} wrong")
    print(f"answered {STATUSES[0]}, refused {STATUSES[1]}, usage {STATUSES[2]}")
    print(f"largest memory {(small + grown) / 1024:.0f} MB; {dict(tried)}")
    return 1 if odd or wrong else 0


if __name__ == "__main__":
    sys.exit(main())
