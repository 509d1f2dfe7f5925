"""``./run bench [NAME …]``: reading, regions, clicks, outlines, deviation, patches, kills, crashes, people, fuzz, trickle, large-scan, card, polls, names, seating, workday, mending, placing, damage, damaged-steps, readings, photos, segments, modelled, gaps, threads, meant, worn, sketches, adjusting, flat-files, redrawing, drawn-photos, closed-forms, holes-threads, coils, finishing, cavities, booleans, long-job, robust (as many jobs as robust=200 says; of modelled random parts likewise). All by default."""

from __future__ import annotations

import os

# One thread for everybody: the ratios are about methods, not about cores.
for variable in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "NUMBA_NUM_THREADS"):
    os.environ.setdefault(variable, "1")

import sys  # noqa: E402

from benchmarks import (  # noqa: E402
    adjusting,
    booleans,
    card,
    cavities,
    clicks,
    closed_forms,
    coils,
    crashes,
    damage,
    damaged_steps,
    deviation,
    drawn_photos,
    finishing,
    flat_files,
    fuzz,
    gaps,
    holes_threads,
    kills,
    large_scan,
    long_job,
    meant,
    mending,
    modelled,
    names,
    outlines,
    patches,
    people,
    photos,
    placing,
    polls,
    reading,
    readings,
    redrawing,
    regions,
    robust,
    seating,
    segments,
    sketches,
    threads,
    trickle,
    workday,
    worn,
)

ALL = {
    "reading": reading.run,
    "regions": regions.run,
    "clicks": clicks.run,
    "outlines": outlines.run,
    "deviation": deviation.run,
    "patches": patches.run,
    "kills": kills.run,
    "crashes": crashes.run,
    "people": people.run,
    "fuzz": fuzz.run,
    "trickle": trickle.run,
    "polls": polls.run,
    "large-scan": large_scan.run,
    "card": card.run,
    "names": names.run,
    "seating": seating.run,
    "segments": segments.run,
    "meant": meant.run,
    "worn": worn.run,
    "sketches": sketches.run,
    "adjusting": adjusting.run,
    "flat-files": flat_files.run,
    "redrawing": redrawing.run,
    "drawn-photos": drawn_photos.run,
    "closed-forms": closed_forms.run,
    "holes-threads": holes_threads.run,
    "cavities": cavities.run,
    "coils": coils.run,
    "finishing": finishing.run,
    "booleans": booleans.run,
    "robust": robust.run,
    "long-job": long_job.run,
    "modelled": modelled.run,
    "gaps": gaps.run,
    "threads": threads.run,
    "workday": workday.run,
    "mending": mending.run,
    "placing": placing.run,
    "damage": damage.run,
    "damaged-steps": damaged_steps.run,
    "readings": readings.run,
    "photos": photos.run,
}

if __name__ == "__main__":
    wanted = sys.argv[1:] or list(ALL)
    for name in wanted:
        if name.partition("=")[0] not in ALL:
            sys.exit(f"no benchmark {name!r}; there are {', '.join(ALL)}")
    for name in wanted:
        print(f"\n{name}")
        kind, _, count = name.partition("=")
        for label, value in ALL[kind](*([int(count)] if count else [])):  # type: ignore[operator]
            print(f"  {label:<80}{value}", flush=True)
