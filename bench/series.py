"""A series: how long 200 variants take to plan, and how much several at once are worth.

Ratios in one run: planning against compiling the demo's session 200 times; renders at once against one after another.

Usage: python bench/series.py
"""

import os
import shutil
import tempfile
import time
from dataclasses import replace
from pathlib import Path

os.environ["NAFAS_RECORDS"] = tempfile.mkdtemp()

from nafas.demo import SESSION
from nafas.exchange.made_of import MadeOf
from nafas.parallel.processes import cores
from nafas.parallel.shares import forking
from nafas.script import load_session
from nafas.series.plan import Series, Variant
from nafas.series.planner import Planner, planned
from nafas.tasks.series import SeriesRequest, render_series
from nafas.timing import compile_session, paced


def timed(does, *given):
    began = time.perf_counter()
    made = does(*given)
    return time.perf_counter() - began, made


def sums(variants, folder):
    made_of = MadeOf()
    return [made_of(each.session, folder) for each in variants]


def main() -> None:
    folder = Path(tempfile.mkdtemp())
    session = load_session(SESSION)
    shutil.copytree(SESSION.parent / session.voice.take_book.path, folder / session.voice.take_book.path)
    shutil.copy(SESSION, folder / "base.nafas")
    compiling, _ = timed(lambda: [compile_session(session, paced(90 + n % 40)) for n in range(200)])
    fitted = Series(session="base.nafas", variants=tuple(Variant(name=f"{n}", length=300 + 3 * n) for n in range(200)))
    plain = Series(
        session="base.nafas",
        variants=tuple(Variant(name=f"{n}", count_length=f"1.{n:03}", loudness=-16 - n % 3) for n in range(200)),
    )
    for name, series in (("200 variants, each fitted to a length", fitted), ("200 variants, none fitted", plain)):
        with forking():
            command, variants = timed(planned, series, folder)
        planner = Planner()
        window, _ = timed(planner.plan, series, folder)
        rows = (series.variants[0].model_copy(update={"title": "Another"}), *series.variants[1:])
        other = series.model_copy(update={"variants": rows})
        again, _ = timed(planner.plan, other, folder)
        summed, _ = timed(sums, variants, folder)
        ratio = f"{command / compiling:.1f} x compiling them"
        print(f"{name}: {command:.2f} s ({ratio}); on one core {window:.2f} s; one row changed {1000 * again:.0f} ms")
        print(f"  seeing what of them changed by their sums: {summed:.2f} s ({summed / compiling:.1f} x)")
    few = Series(session="base.nafas", variants=tuple(Variant(name=f"{n}", title=f"Watch {n}") for n in range(4)))
    asked = SeriesRequest(few, planned(few, folder), folder, every=True)
    one, _ = timed(render_series, replace(asked, at_once=1))
    once, _ = timed(render_series, asked)
    print(f"4 renders of {len(session.blocks)} blocks, {cores()} at once: {once / one:.2f} of one after another")
    kept, found = timed(lambda: render_series(SeriesRequest(few, planned(few, folder), folder)))
    print(f"nothing changed: {len(found.names)} rendered, looked at in {kept:.2f} s")


if __name__ == "__main__":
    main()
