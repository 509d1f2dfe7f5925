"""The photo desk through the API, on the gland nut's photo."""

import io
import uuid
from pathlib import Path

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from PIL import Image, ImageDraw

from demo.gland_nut import CARD, gland_nut_photo
from tests.bench.asking import client_of, edited, get, post
from tests.bench.test_desk_api import desk  # noqa: F401

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture(scope="module")
def nut() -> tuple:
    return gland_nut_photo()


def bring(client: Client, job: dict, data: bytes, name: str = "nut.jpg", **query: object) -> dict:
    version = get(client, f"/jobs/{job['id']}")["version"]
    more = "".join(f"&{k}={v}" for k, v in query.items())
    return client.post(
        f"/api/jobs/{job['id']}/pictures?version={version}{more}", {"file": SimpleUploadedFile(name, data)}
    ).json()


def version(client: Client, desk: dict) -> int:  # noqa: F811
    return get(client, f"/jobs/{desk['id']}")["version"]


@pytest.fixture
def photo(maker, desk, nut) -> dict:  # noqa: F811
    """The photo squared up and scaled by its card."""
    data, shot = nut
    made = bring(maker, desk, data)
    picture = next(e for e in made["recipe"]["evidence"] if e["kind"] == "picture")
    path = f"/jobs/{desk['id']}/pictures/{picture['id']}"
    found = post(maker, f"{path}/snap", {"kind": "corners", "points": (shot.card + 2).tolist()})
    edited(
        maker,
        desk,
        {
            "op": "set-picture",
            "id": picture["id"],
            "corners": found["points"],
            "bend": found["bend"],
            "aspect": CARD[0] / CARD[1],
        },
    )
    edited(
        maker,
        desk,
        {
            "op": "set-picture",
            "id": picture["id"],
            "scale": {
                "a": found["points"][0],
                "b": found["points"][1],
                "length": {"text": "120 mm", "mark": "drawing"},
            },
        },
    )
    return {"path": path, "id": picture["id"], "shot": shot}


def flat_points(client: Client, photo: dict, *mm: tuple[float, float]) -> list[list[float]]:
    """Where places of the truth lie in the flat picture: by the scale's own ends, which are the card's upper corners."""
    (ax, ay), (bx, by) = get(client, photo["path"])["scale_line"]
    px = np.hypot(bx - ax, by - ay) / CARD[0]
    return [[ax + (x - 12.0 + CARD[0] / 2) * px, ay + (CARD[1] / 2 - (y - 3.0)) * px] for x, y in mm]


def test_repeats_of_the_thread_give_its_pitch_and_become_a_reading(maker, desk, photo):  # noqa: F811
    edited(
        maker,
        desk,
        {"op": "set-value", "id": "p", "name": "pitch", "dimension": "length", "value": {"text": "thread_span.each"}},
    )
    y = 35.76 / 2 - 1.1
    mark = {
        "id": str(uuid.uuid4()),
        "kind": "repeat",
        "points": flat_points(maker, photo, (0, y), (21, y)),
        "count": 8,
        "step": {"text": "pitch"},
        "version": version(maker, desk),
    }
    post(maker, f"{photo['path']}/marks", mark)
    (found,) = get(maker, photo["path"])["marks"]
    assert abs(found["value"] - 3.0) < 2 * found["u"] < 0.02
    # The span was read 0.01 mm long: nothing that the last crest could tell.
    assert abs(found["drift"]) < 2 * found["u_drift"] and len(found["found"]) == 8
    post(maker, f"{photo['path']}/marks/{mark['id']}/reading", {"version": version(maker, desk), "name": "photo_pitch"})
    now = get(maker, f"/jobs/{desk['id']}")
    reading = next(e for e in now["recipe"]["evidence"] if e.get("name") == "photo_pitch")
    assert reading["source"] == "photo" and reading["pin"]["on"] == photo["id"]
    assert now["readings"][reading["id"]]["u"] == pytest.approx(found["u"])
    assert [p["reading"] for p in get(maker, photo["path"])["pins"]] == [reading["id"]]


def test_edges_distances_and_their_uncertainty(maker, desk, photo):  # noqa: F811
    ends = flat_points(maker, photo, (-24, 0), (-9, 18))
    ends[1][1] = ends[0][1] - 200  # both on one height, above the thread
    ends[0][1] -= 200
    snapped = post(maker, f"{photo['path']}/snap", {"kind": "ends", "points": ends})["points"]
    mark = {"id": "m", "kind": "distance", "points": snapped, "snapped": True, "version": version(maker, desk)}
    post(maker, f"{photo['path']}/marks", mark)
    by_hand = {**mark, "id": "n", "points": ends, "snapped": False, "version": version(maker, desk)}
    post(maker, f"{photo['path']}/marks", by_hand)
    edge, hand = get(maker, photo["path"])["marks"]
    assert abs(edge["value"] - 15.0) < 2 * edge["u"] and edge["u"] < hand["u"]


def test_a_second_length_tries_the_scale(maker, desk, photo):  # noqa: F811
    a, b = flat_points(maker, photo, (-16.5, -26.56), (-16.5, 26.56))
    body = {"version": version(maker, desk), "which": "check", "a": a, "b": b, "length": {"text": "53.12 mm"}}
    post(maker, f"{photo['path']}/known", body)
    assert abs(get(maker, photo["path"])["check_away"]) < 2
    post(maker, f"{photo['path']}/known", {**body, "version": version(maker, desk), "length": {"text": "54.5 mm"}})
    assert get(maker, photo["path"])["check_away"] < -2
    post(
        maker,
        f"{photo['path']}/known",
        {**body, "version": version(maker, desk), "length": {"text": "no_such_name"}},
        400,
    )


def test_pictures_are_shown_flat_and_as_they_came(maker, photo):
    size = get(maker, photo["path"])["size"]
    shown = maker.get(f"/api{photo['path']}/flat")
    image = Image.open(io.BytesIO(b"".join(shown.streaming_content)))
    assert shown["Content-Type"] == "image/jpeg" and image.size == tuple(size)
    assert (
        Image.open(io.BytesIO(b"".join(maker.get(f"/api{photo['path']}/photo").streaming_content))).size
        == photo["shot"].camera.size
    )


def test_a_dimension_that_a_drawing_states(maker, desk):  # noqa: F811
    page = Image.new("RGB", (300, 200), "white")
    out = io.BytesIO()
    page.save(out, "PDF", resolution=72)
    made = bring(maker, desk, out.getvalue(), "old-print.pdf", role="drawing")
    picture = next(e for e in made["recipe"]["evidence"] if e["kind"] == "picture")
    path = f"/jobs/{desk['id']}/pictures/{picture['id']}"
    body = {"version": made["version"], "name": "hex_af", "at": [120, 80], "value": 46, "tolerance_mm": 0.2}
    now = post(maker, f"{path}/dimension", body)
    reading = next(e for e in now["recipe"]["evidence"] if e.get("name") == "hex_af")
    assert (reading["source"], reading["tolerance_mm"]) == ("drawing", 0.2)
    assert now["readings"][reading["id"]]["u"] == pytest.approx(0.2 / 3**0.5)
    assert get(maker, path)["pins"][0]["at"] == pytest.approx([120, 80])
    post(maker, f"{path}/dimension", {**body, "version": now["version"]}, 400)  # the name is taken
    edited(maker, desk, {"op": "drop-picture", "id": picture["id"]})
    kept = next(e for e in get(maker, f"/jobs/{desk['id']}")["recipe"]["evidence"] if e.get("name") == "hex_af")
    assert kept["pin"] is None and kept["takes"]


def test_refused_pictures_leave_the_job_alone(maker, desk):  # noqa: F811
    assert bring(maker, desk, b"nothing")["problem"]["code"] == "file-not-understood"
    strange = {"id": "p", "name": "x", "blob": "c" * 64, "format": "png", "width": 10, "height": 10}
    edited(maker, desk, {"op": "add-picture", "picture": strange}, 404)
    assert all(e["kind"] == "reading" for e in get(maker, f"/jobs/{desk['id']}")["recipe"]["evidence"])


def test_somebody_else_s_picture_does_not_exist(maker, photo):
    other = client_of("photo-passer-by")
    for path in ("", "/flat", "/photo"):
        assert other.get(f"/api{photo['path']}{path}").status_code == 404


def test_a_hand_sketch_is_a_place_to_pin_readings_on(maker, desk):  # noqa: F811
    answer = maker.post(f"/api/jobs/{desk['id']}/pictures/blank?version={version(maker, desk)}")
    picture = next(e for e in answer.json()["recipe"]["evidence"] if e["kind"] == "picture")
    path = f"/jobs/{desk['id']}/pictures/{picture['id']}"
    stroke = {
        "id": "s",
        "kind": "stroke",
        "points": [[100, 100], [300, 120], [320, 400]],
        "version": version(maker, desk),
    }
    post(maker, f"{path}/marks", stroke)
    post(maker, f"{path}/pin", {"version": version(maker, desk), "reading": desk["span"], "at": [300, 120]})
    shown = get(maker, path)
    assert shown["marks"][0]["points"][1] == pytest.approx([300, 120]) and shown["marks"][0]["value"] is None
    assert shown["pins"][0]["at"] == pytest.approx([300, 120])


def test_a_reading_is_pinned_on_a_photo(maker, desk, photo):  # noqa: F811
    post(maker, f"{photo['path']}/pin", {"version": version(maker, desk), "reading": desk["rim"], "at": [300, 200]})
    (pin,) = get(maker, photo["path"])["pins"]
    assert pin["reading"] == desk["rim"] and pin["at"] == pytest.approx([300, 200], abs=1e-3)


def test_the_scan_drawn_along_an_axis_is_to_scale(maker, job):
    made = post(
        maker,
        f"/jobs/{job['id']}/pictures/silhouette",
        {"version": version(maker, job), "scan": job["recipe"]["evidence"][0]["id"]},
    )
    picture = next(e for e in made["recipe"]["evidence"] if e["kind"] == "picture")
    path = f"/jobs/{job['id']}/pictures/{picture['id']}"
    # The block is 40 by 30 mm with a bore of 12 at (15, 15): its left rim to its right one, found as edges.
    px = 1 / get(maker, path)["mm_per_px"]
    left = 30 + 15 * px
    middle = picture["height"] - 31 - 15 * px
    found = post(maker, f"{path}/snap", {"kind": "ends", "points": [[left - 6 * px, middle], [left + 6 * px, middle]]})[
        "points"
    ]
    assert (found[1][0] - found[0][0]) / px == pytest.approx(12, abs=0.5)
    assert picture["role"] == "drawing" and abs(picture["width"] - 1500) <= 2


def _anonymous_mb() -> float:
    """Memory of this process that is no mapped file."""
    row = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("RssAnon"))
    return int(row.split()[1]) / 1024


def test_a_small_file_of_many_pixels_is_unpacked_by_a_child_alone(maker, desk):  # noqa: F811
    """7,600 x 7,600 pixels in some hundred kB took the web process 6.5 GB for the flat picture; half of that each way would take 1.6 GB."""
    page = Image.new("L", (3800, 3800), 240)
    ImageDraw.Draw(page).rectangle([500, 600, 3200, 3000], fill=30)
    out = io.BytesIO()
    page.save(out, "PNG")
    del page
    assert out.tell() < 400_000
    before = _anonymous_mb()
    made = bring(maker, desk, out.getvalue(), "sheet.png")
    picture = next(e for e in made["recipe"]["evidence"] if e["kind"] == "picture")
    path = f"/jobs/{desk['id']}/pictures/{picture['id']}"
    corners = [[506, 597], [3196, 604], [3204, 2994], [496, 3007]]
    found = post(maker, f"{path}/snap", {"kind": "corners", "points": corners})
    assert np.abs(np.array(found["points"]) - [[500, 600], [3200, 600], [3200, 3000], [500, 3000]]).max() < 1.5
    edited(maker, desk, {"op": "set-picture", "id": picture["id"], "corners": found["points"]})
    shown = Image.open(io.BytesIO(b"".join(maker.get(f"/api{path}/flat").streaming_content)))
    assert max(shown.size) == 2600 and get(maker, path)["size"][0] > 2600
    post(
        maker,
        f"{path}/snap",
        {"kind": "ends", "points": [[shown.size[0] * 0.2, 1500], [shown.size[0] * 1.2, 1500]]},
        422,
    )
    assert _anonymous_mb() - before < 60
