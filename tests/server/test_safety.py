"""Safe by default: other hosts, other sites, odd uploads."""

import io
import json
import re
import urllib.request
import zipfile

import pytest

from vireo.server.api import ROUTES, id_checks
from vireo.server.app import create_app, is_loopback


@pytest.mark.parametrize(
    "host", ["evil.example", "127.0.0.1.evil.example", "192.168.1.5:8765", "[::2]"]
)
def test_other_hosts_are_refused(api, host):
    status, said = api.get("/api/shelf", headers={"Host": host})
    assert status == 403
    assert "this machine only" in said["error"]["text"]


def test_other_origins_are_refused(api):
    for headers in (
        {"Origin": "http://evil.example"},
        {"Origin": "null"},
        {"Sec-Fetch-Site": "cross-site"},
    ):
        status, _ = api.post("/api/projects", {"name": "x"}, headers=headers)
        assert status == 403
    assert api.post("/api/projects", {"name": "x"}, headers={"Origin": api.server.base})[0] == 200


def test_loopback_names():
    assert all(is_loopback(h) for h in ("127.0.0.1:8765", "localhost", "[::1]:80", "127.0.0.9"))
    assert not any(is_loopback(h) for h in ("0.0.0.0", "example.org", "127.0.0.1.example.org", ""))


def test_strict_headers_on_everything(api):
    for path in ("/", "/api/shelf", "/api/nothing"):
        request = urllib.request.Request(api.server.base + path)
        try:
            answer = urllib.request.urlopen(request)
        except urllib.error.HTTPError as error:
            answer = error
        policy = answer.headers["Content-Security-Policy"]
        assert "default-src 'self'" in policy
        assert "frame-ancestors 'none'" in policy
        assert "script-src 'self';" in policy
        assert answer.headers["X-Content-Type-Options"] == "nosniff"
        assert "Access-Control-Allow-Origin" not in answer.headers


def test_a_form_post_from_anywhere_cannot_edit(api):
    status, said = api.post(
        "/api/projects", raw=b'{"name": "x"}', headers={"Content-Type": "text/plain"}
    )
    assert status == 422
    assert "JSON" in said["error"]["text"]


def test_nesting_and_size_are_limited(api):
    deep = b'{"name":' + b"[" * 100_000 + b"]" * 100_000 + b"}"
    status, _ = api.post("/api/projects", raw=deep, headers={"Content-Type": "application/json"})
    assert status == 422
    project = api.project()
    big = b"x" * (65 * 1024**2)
    status, _said = api.post(
        f"/api/projects/{project}/bring", raw=big, headers={"X-File-Name": "big.step"}
    )
    assert status in (413, 422)


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("part.step", b""),
        ("part.step", b"not a step file at all"),
        ("part.step", b"ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('AP214'));\nENDSEC;\nDATA;\n#1=CART"),
        ("../../evil.step", b"\x00\x01\x02" * 100),
    ],
)
def test_files_that_are_no_step_are_refused_and_leave_nothing(api, name, data):
    project = api.project()
    status, said = api.post(
        f"/api/projects/{project}/bring", raw=data, headers={"X-File-Name": name}
    )
    assert status == 422, said
    assert said["error"]["text"]
    shelf = api.get("/api/shelf")[1]["projects"]
    assert next(p for p in shelf if p["id"] == project)["documents"] == []


def test_step_out_and_in_gives_the_same_solid(api):
    project = api.project()
    id = api.plate(project)
    status, data = api.get(f"/api/documents/{id}/export.step")
    assert status == 200
    status, made = api.post(
        f"/api/projects/{project}/bring", raw=data, headers={"X-File-Name": "plate%201.step"}
    )
    assert status == 200
    found = api.build(made["id"])
    assert found["volume"] == pytest.approx(24000)
    assert found["steps"][0]["caption"] == "plate 1.step"


def test_stl_deviation_is_chosen_and_limited(api):
    id = api.plate()
    assert api.get(f"/api/documents/{id}/export.stl?deviation=0.1")[0] == 200
    for bad in ("0", "-1", "1e9", "nan", "x", "0.0001"):
        assert api.get(f"/api/documents/{id}/export.stl?deviation={bad}")[0] == 422


def test_project_zip_round_trip_is_identical(api):
    project = api.project()
    part = api.plate(project)
    group = api.document("assembly", project)
    api.do(group, {"do": "add_component", "document": part, "name": "P"})
    _, first = api.get(f"/api/projects/{project}/archive")
    status, made = api.post("/api/projects/archive", raw=first, headers={"X-File-Name": "p.zip"})
    assert status == 200
    _, second = api.get(f"/api/projects/{made['id']}/archive")
    assert _content(first) == _content(second)
    loaded = next(p for p in api.get("/api/shelf")[1]["projects"] if p["id"] == made["id"])
    copy = next(d for d in loaded["documents"] if d["kind"] == "assembly")
    assert len(api.get(f"/api/documents/{copy['id']}/assembly")[1]["leaves"]) == 1


def _content(data):
    """Files of a project zip with document ids numbered in order: ids are given anew."""
    with zipfile.ZipFile(io.BytesIO(data)) as z:
        ids = json.loads(z.read("project.json"))["documents"]
        texts = {name: z.read(name).decode() for name in z.namelist()}
    for n, id in enumerate(ids):
        texts = {k.replace(id, f"doc{n}"): v.replace(id, f"doc{n}") for k, v in texts.items()}
    return texts


def test_a_zip_bomb_is_not_opened(api):
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as z:
        z.writestr("project.json", b"0" * 300_000_000)
    status, said = api.post(
        "/api/projects/archive", raw=stream.getvalue(), headers={"X-File-Name": "b.zip"}
    )
    assert status == 422
    assert "far more" in said["error"]["text"]


def test_thumbnails_are_pictures_of_the_model(api):
    status, data = api.get(f"/api/documents/{api.plate()}/thumbnail.svg")
    assert status == 200
    assert data.count(b"data:image/png") == 1
    assert len(re.findall(b"<polyline", data)) >= 9  # the edges of a box that are seen
    empty = api.get(f"/api/documents/{api.document()}/thumbnail.svg")
    assert empty[0] == 200


def test_bound_to_another_address_it_demands_a_sign_in():
    client = create_app(None, token="secret").test_client()  # the guard comes before any service
    assert client.get("/api/openapi.json").status_code == 401
    assert client.get("/api/openapi.json?token=wrong").status_code == 401
    signed = client.get("/api/openapi.json?token=secret")
    assert signed.status_code == 303
    assert "HttpOnly" in signed.headers["Set-Cookie"]
    assert client.get("/api/openapi.json").status_code == 200


HOSTILE = (
    "..", "%2e%2e", "..%2f..%2fetc", ".", "%00", "a" * 200, "p" + "0" * 11, "P0123456789AB",
    "p0123456789ab%0a", "%2e%2e%5c", "d0123456789ab/..", "-rf", "*", "'or'1'='1",
)  # fmt: skip
WELL_FORMED = {
    "projects": "p0123456789ab", "documents": "d0123456789ab", "jobs": "j0123456789ab",
    "steps": "s1", "sketches": "s1", "layouts": "0" * 64, "meshes": "0" * 32, "fields": "0" * 32,
    "envelopes": "0" * 32, "checks": "k1", "revisions": "5",
    "maps": "thickness", "pictures": "extrude", "scripts": "mine", "step-files": "0" * 64, "products": "5",
}  # fmt: skip


def test_no_hostile_id_reaches_anything(api):
    """Every placeholder of every route, with ids no document can have: 404 or 405, nothing made,
    nothing run, and the server goes on."""
    root = api.server.data
    marker = "project.folder.joinpath('steps').mkdir(); print('ran')"

    def files():
        return {
            str(p.relative_to(root))
            for p in root.rglob("*")
            if not p.name.startswith("vireo.db") and "cache" not in p.parts
        }

    before = files()
    tried = 0
    for route in ROUTES:
        for number in range(route.path.count("<")):
            for bad in HOSTILE:
                parts = re.split(r"<[^>]+>", route.path)
                ids = [WELL_FORMED[part.split("/")[-2]] for part in parts[:-1]]
                ids[number] = bad
                path = "".join(a + b for a, b in zip(parts, [*ids, ""], strict=True))
                body = {"text": marker, "name": "x", "document": None, "picks": []}
                status, said = api.server.call(
                    route.method, "/api" + path, body if route.body else None
                )
                assert status in (404, 405), (route.method, path, status, said)
                tried += 1
    assert tried > 500
    assert files() == before
    assert api.get("/api/shelf")[0] == 200


def test_a_route_cannot_be_declared_without_a_pattern_for_its_ids():
    with pytest.raises(KeyError):
        id_checks("/things/<id>")
    assert all(id_checks(r.path) for r in ROUTES if "<" in r.path)


def test_a_script_runs_in_no_project_that_is_not_there(api):
    status, _ = api.post("/api/projects/p0123456789ab/run", {"text": "1", "name": "x"})
    assert status == 404
    assert not (api.server.data / "scripts" / "p0123456789ab").exists()
