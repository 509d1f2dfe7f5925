"""Asking the API as the browser does, with the status that is expected."""

import json
import uuid

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client


def client_of(name: str) -> Client:
    user = get_user_model().objects.create_user(name, password="ferry-rope-7")
    client = Client()
    client.force_login(user)
    return client


def post(client: Client, path: str, body: dict, status: int = 200) -> dict:
    answer = client.post(f"/api{path}", json.dumps(body), content_type="application/json")
    assert answer.status_code == status, answer.content
    return answer.json()


def get(client: Client, path: str, status: int = 200) -> dict:
    answer = client.get(f"/api{path}")
    assert answer.status_code == status, answer.content
    return answer.json()


def bring(client: Client, data: bytes, name: str = "block.stl") -> dict:
    answer = client.post("/api/uploads", {"file": SimpleUploadedFile(name, data)})
    assert answer.status_code == 200, answer.content
    return get(client, f"/uploads/{answer.json()['id']}")


def edited(client: Client, job: dict, edit: dict, status: int = 200) -> dict:
    now = get(client, f"/jobs/{job['id']}")
    return post(client, f"/jobs/{job['id']}/edits", {"version": now["version"], "edit": edit}, status)


def scan_id(job: dict) -> str:
    return job["recipe"]["evidence"][0]["id"]


def region_edit(job: dict, seed: int = 0) -> dict:
    params = {"scan": {"id": scan_id(job)}, "seeds": [seed]}
    return {"op": "add-step", "id": str(uuid.uuid4()), "kind": "region", "params": params}
