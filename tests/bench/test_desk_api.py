"""The caliper desk through the API: jobs without a scan, lines of a caliper, tables, threads, a made part."""

import uuid

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from bench.models import CaliperLine
from tests.bench.asking import client_of, edited, get, post

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def desk(maker) -> dict:
    """A job without a scan: an instrument, a session and two readings."""
    made = post(maker, "/jobs", {"upload": None, "name": "Nut", "unit": "mm"})
    out = {"id": made["id"], "rim": str(uuid.uuid4()), "span": str(uuid.uuid4())}
    edited(
        maker,
        out,
        {
            "op": "set-instrument",
            "instrument": {"id": "tool", "name": "caliper", "resolution_mm": 0.01, "limit_mm": 0.02},
        },
    )
    edited(maker, out, {"op": "set-session", "session": {"id": "day", "name": "day", "instrument": "tool"}})
    takes = [{"value": v, "session": "day"} for v in (35.76, 35.78, 35.77)]
    edited(
        maker, out, {"op": "set-reading", "id": out["rim"], "name": "major_d", "takes": takes, "measures": "outside"}
    )
    takes = [{"value": v, "session": "day"} for v in (18.01, 18.0, 18.02)]
    edited(
        maker,
        out,
        {"op": "set-reading", "id": out["span"], "name": "thread_span", "takes": takes, "measures": "span", "over": 6},
    )
    return out


def takes_of(client: Client, desk: dict, id: str) -> list[dict]:
    readings = {e["id"]: e for e in get(client, f"/jobs/{desk['id']}")["recipe"]["evidence"]}
    return readings[id]["takes"]


def test_a_job_begins_with_readings_alone_and_its_values_are_built(maker, desk):
    edited(
        maker,
        desk,
        {"op": "set-value", "id": "lead", "name": "lead", "dimension": "length", "value": {"text": "thread_span.each"}},
    )
    now = get(maker, f"/jobs/{desk['id']}")
    assert now["build"]["result"]["values"]["lead"]["value"] == pytest.approx(18.01 / 6)
    assert now["readings"][desk["rim"]]["U95"] == pytest.approx(2 * now["readings"][desk["rim"]]["u"])
    said = get(maker, f"/jobs/{desk['id']}/desk")
    assert said["uncertain"]["lead"] == pytest.approx(now["readings"][desk["span"]]["u"] / 6)
    assert said["against"] == [] and said["scale"] is None and said["waiting"] == 0


def test_a_caliper_s_lines_wait_and_become_takes_of_the_reading_in_focus(maker, desk):
    address = get(maker, f"/jobs/{desk['id']}/desk")["address"]
    stranger = Client()  # a device signs in with nothing but its address
    sent = stranger.post(address, data=b"35.75 mm\r\n1.408 in\n", content_type="text/plain")
    assert sent.status_code == 200 and sent.json() == {"received": 2}
    assert get(maker, f"/jobs/{desk['id']}/caliper") == {"waiting": 2}
    version = get(maker, f"/jobs/{desk['id']}")["version"]
    post(maker, f"/jobs/{desk['id']}/caliper/collect", {"version": version, "reading": desk["rim"], "session": "day"})
    assert [(t["value"], t["unit"], t["session"]) for t in takes_of(maker, desk, desk["rim"])[-2:]] == [
        (35.75, "mm", "day"),
        (1.408, "inch", "day"),
    ]
    assert get(maker, f"/jobs/{desk['id']}/caliper") == {"waiting": 0}


def test_damaged_lines_and_floods_are_refused_and_leave_the_queue_alone(maker, desk):
    address = get(maker, f"/jobs/{desk['id']}/desk")["address"]

    def send(data: bytes, to: str = address) -> tuple[int, str]:
        answer = Client().post(to, data=data, content_type="text/plain")
        return answer.status_code, answer.json()["problem"]["code"]

    assert send(b"1.00 mm\n12.03\n") == (422, "bad-line")
    assert send(b"\xff\xfe") == (422, "bad-line")
    assert send(b"1.00 mm\n" * 500) == (413, "flood")
    assert send(b"1.00 mm\n", address[:-3] + "abc") == (404, "not-found")
    assert CaliperLine.objects.count() == 0
    for _ in range(4):
        assert Client().post(address, data=b"1.00 mm\n" * 50, content_type="text/plain").status_code == 200
    assert send(b"1.00 mm\n") == (413, "flood")
    assert CaliperLine.objects.count() == 200
    assert maker.delete(f"/api/jobs/{desk['id']}/caliper").json() == {"dropped": 200}


def test_what_does_not_fit_the_reading_stays_in_the_queue(maker, desk):
    address = get(maker, f"/jobs/{desk['id']}/desk")["address"]
    Client().post(address, data=b"30 deg\n", content_type="text/plain")
    version = get(maker, f"/jobs/{desk['id']}")["version"]
    body = {"version": version, "reading": desk["rim"]}
    answer = maker.post(f"/api/jobs/{desk['id']}/caliper/collect", body, content_type="application/json")
    assert answer.json()["problem"]["code"] == "mixed-dimensions"
    assert get(maker, f"/jobs/{desk['id']}/caliper") == {"waiting": 1}
    maker.delete(f"/api/jobs/{desk['id']}/caliper")
    Client().post(address, data=b"35.7 mm\n", content_type="text/plain")
    stale = {**body, "version": version - 1}
    answer = maker.post(f"/api/jobs/{desk['id']}/caliper/collect", stale, content_type="application/json")
    assert answer.status_code == 409 and get(maker, f"/jobs/{desk['id']}/caliper") == {"waiting": 1}


def test_the_simulated_caliper_s_send_key_goes_the_same_way(maker, desk):
    path = f"/jobs/{desk['id']}/caliper/simulated"
    state = {"zero_mm": 0.05, "repeat_mm": 0.0, "error_mm": 0.0}
    shown = post(maker, path, {"state": state, "press": "measure", "true_mm": 12.0})["state"]
    assert shown["shown_mm"] == pytest.approx(12.05)
    zeroed = post(maker, path, {"state": shown, "press": "zero"})["state"]
    again = post(maker, path, {"state": zeroed, "press": "measure", "true_mm": 12.0})["state"]
    sent = post(maker, path, {"state": again, "press": "send"})
    assert sent["line"] == "12.00 mm"
    assert CaliperLine.objects.get().take["value"] == 12.0


def test_tables_go_out_and_come_in(maker, desk):
    out = maker.get(f"/api/jobs/{desk['id']}/readings.csv")
    text = out.content.decode()
    assert out["Content-Type"].startswith("text/csv") and text.count("\n") == 7
    version = get(maker, f"/jobs/{desk['id']}")["version"]
    more = text + "slot_w,inside,1,8.02,mm,jaws,,,,day\n"

    def bring(data: bytes, version: int) -> dict:
        path = f"/api/jobs/{desk['id']}/readings.csv?version={version}"
        return maker.post(path, {"file": SimpleUploadedFile("readings.csv", data)}).json()

    made = bring(more.encode(), version)
    assert [e["name"] for e in made["recipe"]["evidence"]] == ["major_d", "thread_span", "slot_w"]
    assert made["recipe"]["evidence"][2]["takes"][0]["session"] == "day"
    assert bring(b"name,value,unit\nx,1,\n", made["version"])["problem"]["code"] == "unit-unknown"
    assert bring(b"\xff\xfe\x00", made["version"])["problem"]["code"] == "file-not-understood"
    assert len(get(maker, f"/jobs/{desk['id']}")["recipe"]["evidence"]) == 3


def test_readings_name_their_thread(maker, desk):
    found = post(maker, f"/jobs/{desk['id']}/threads", {"diameter": desk["rim"], "pitch": desk["span"]})
    assert found[0]["designation"] == "M36x3"
    assert abs(found[0]["pitch_away"]) < 2 < abs(found[1]["pitch_away"])
    assert found[0]["core"] == pytest.approx(36 - 17 / 12 * 3 * 3**0.5 / 2)


def test_a_made_part_says_what_its_making_adds(maker, desk):
    sizes = [{"reading": desk["rim"], "model": 35.67}, {"reading": desk["span"], "model": 17.91}]
    found = post(maker, f"/jobs/{desk['id']}/made-again", sizes)
    assert found["outside"] == pytest.approx(0.1, abs=1e-6) and found["inside"] is None and found["pairs"] == 2


def test_somebody_else_s_desk_does_not_exist(maker, desk):
    other = client_of("passer-by")
    for path in ("desk", "caliper", "readings.csv", "truth-sizes"):
        assert other.get(f"/api/jobs/{desk['id']}/{path}").status_code == 404
