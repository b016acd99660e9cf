"""Jobs: keyed by what decides their answer, the same in local processes and on a cluster."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import time

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.serving import free_port
from vireo.core.documents import load_document, new_document
from vireo.core.documents.commands import apply_all
from vireo.core.naming import make_pick
from vireo.core.trouble import BadInput
from vireo.core.viewmesh import topology_from
from vireo.script.sketch import Sketch
from vireo.store.store import NotFound
from vireo.work.jobs.kind import JOBS
from vireo.work.lanes import Cancelled
from vireo.work.services import Services


class Cluster:
    """A Dask scheduler on loopback and machines lent to it."""

    def __init__(self, machines):
        port = free_port()
        self.address, self.lent = f"tcp://127.0.0.1:{port}", []
        self.scheduler = self._begin(
            "distributed.cli.dask_scheduler", "--host", "127.0.0.1", "--port", str(port),
            "--no-dashboard",
        )  # fmt: skip
        for _ in range(machines):
            self.lend()

    def _begin(self, module, *words):
        return subprocess.Popen(
            [sys.executable, "-m", module, *words], stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL, env={**os.environ, "OPENBLAS_NUM_THREADS": "1"},
        )  # fmt: skip

    def lend(self):
        self.lent.append(self._begin("vireo.cli", "lend", self.address))

    def end(self):
        for process in [*self.lent, self.scheduler]:
            process.terminate()
            process.wait(20)


@pytest.fixture(scope="module")
def cluster():
    """The address of one with two machines."""
    found = Cluster(2)
    yield found.address
    found.end()


@pytest.fixture(scope="module", params=["local", "cluster"])
def work(request, tmp_path_factory):
    """Services whose jobs run in processes here, or on the cluster."""
    far = request.param == "cluster"
    services = serve(tmp_path_factory, request.getfixturevalue("cluster") if far else None)
    yield Project(services, far)
    services.close()


def serve(folders, address=None):
    return Services.open(folders.mktemp("jobs"), workers=1, cluster=address)


class Project:
    """A plate, two of them overlapping in an assembly with a hinge, and a study of one."""

    def __init__(self, services, far=False):
        self.far = far
        self.services, self.store = services, services.store
        self.id = self.store.create_project("Jobs")
        self.part = self.make("part", {"do": "set_material", "material": "S235"})
        s = Sketch()
        corners = s.box(0, 0, 60, 40)
        s.put("distance_x", corners[0], corners[2], formula="w")
        self.drawing = s.drawing
        self.do(
            self.part, {"do": "add_parameter", "name": "w", "formula": "60 mm"},
            {"do": "add_parameter", "name": "thick", "formula": "10 mm"},
            {"do": "add_step", "kind": "sketch", "fields": {"drawing": s.drawing}},
            {"do": "add_step", "kind": "extrude", "fields": {"sketch": "s1", "depth": "thick"}},
        )  # fmt: skip
        (body,) = services.builds.build(self.part)["bodies"]
        t = topology_from(services.builds.topology(body["key"]))

        def face(x):
            i = next(i for i, f in enumerate(t.faces) if abs(f.at[0] - x) < 1e-6)
            return make_pick(t, body["id"], "face", i).model_dump(mode="json")

        self.left, self.right = face(0.0), face(60.0)
        self.assembly = self.two({"do": "add_parameter", "name": "swing", "formula": "5 deg"})
        self.study = self.make(
            "study",
            {"do": "add_parameter", "name": "hand", "formula": "10 N"},
            {"do": "add_support", "faces": [self.left]},
            {"do": "add_load", "kind": "force", "faces": [self.right], "size": "hand"},
            {"do": "set_mesh", "size": "8 mm"},
            part=self.part,
        )  # fmt: skip

    def two(self, *more):
        """An assembly of two plates, the upper half a millimetre in the lower."""
        return self.make(
            "assembly",
            {"do": "add_component", "document": self.part, "name": "Lower"},
            {"do": "add_component", "document": self.part, "name": "Upper",
             "placement": {"p": (0.0, 0.0, 9.5)}},
            *more,
        )  # fmt: skip

    def make(self, kind, *commands, **more):
        id = self.store.create_document(self.id, new_document(kind, f"The {kind}", **more))
        self.do(id, *commands)
        return id

    def do(self, id, *commands):
        record = self.store.document(id)
        after, label = apply_all(record.document, list(commands))
        self.store.commit(id, record.revision, after, label, {"commands": list(commands)})

    def key(self, kind, id, **options):
        return self.services.jobs.asked(kind, id, options)[0]

    def run(self, kind, id, **options):
        job = self.services.jobs.start(kind, id, options)
        return self.services.jobs.wait(job.id, 120)


def test_a_study_is_solved_and_its_field_is_there(work):
    job = work.run("strength", work.study)
    assert job.state == "done", job.error
    assert job.result["answer"]["reaction"][2] == pytest.approx(10, rel=1e-4)
    disk, name = work.services.disk, job.result["field"]
    assert disk.get(f"field-{name}")[:3] == b"VFL"
    # Only the cluster's own disk knows how it was solved.
    assert disk.has(f"answer-{name}") == (not work.far)


def test_overlaps_come_with_the_names_they_have_now(work):
    job = work.run("interference", work.assembly)
    assert job.state == "done", job.error
    assert job.result["volume"] == pytest.approx(60 * 40 * 0.5)
    (clash,) = work.services.jobs.view(job)["result"]["rows"]
    assert {clash["name_a"], clash["name_b"]} == {"Lower", "Upper"}
    work.do(work.assembly, {"do": "edit_component", "id": "c2", "name": "Lid"})
    again = work.services.jobs.start("interference", work.assembly, {})
    assert again.id == job.id  # nothing is asked anew
    (clash,) = work.services.jobs.view(again)["result"]["rows"]
    assert {clash["name_a"], clash["name_b"]} == {"Lower", "Lid"}
    work.do(work.assembly, {"do": "edit_component", "id": "c2", "name": "Upper"})


def test_overlaps_are_told_by_what_they_mean_and_what_became_of_them(work):
    """Two blocks half a millimetre in each other: a fault, then meant, then deeper than that; another
    time told by position, and as one thing."""
    views = work.services.jobs

    def run(**options):
        found = work.run("interference", pair, **options)
        assert found.state == "done", found.error
        return found, views.view(found)["result"]

    pair = work.two({"do": "add_parameter", "name": "press", "formula": "0.6 mm"})
    first, told = run()
    (row,) = told["rows"]
    assert (row["class"], row["news"], told["faults"]) == ("interference", "", 1)
    assert row["depth"] == pytest.approx(0.5, rel=1e-6)
    assert row["picture"]
    assert work.services.disk.has(f"mesh2-{row['picture']}")
    work.do(pair, {"do": "mark_meant", "a": "c2", "b": "c1", "reason": "pressed", "depth": "press"})
    assert work.services.jobs.current(first)  # what it means hangs on nothing that stands
    (row,) = views.view(first)["result"]["rows"]
    assert (row["class"], row["reason"], row["allowed"]) == (
        "intended",
        "pressed",
        pytest.approx(0.6),
    )
    work.do(pair, {"do": "edit_parameter", "name": "press", "formula": "0.4 mm"})
    assert views.view(first)["result"]["rows"][0]["class"] == "grown"
    work.do(pair, {"do": "edit_component", "id": "c2", "placement": {"p": (0.0, 0.0, 9.2)}})
    assert not work.services.jobs.current(first)
    _, told = run()
    (row,) = told["rows"]
    assert (row["class"], row["news"]) == ("grown", "grown")
    work.do(
        pair, {"do": "keep_position", "name": "Deep"},
        {"do": "edit_component", "id": "c2", "placement": {"p": (0.0, 0.0, 12.0)}},
    )  # fmt: skip
    _, told = run()
    assert told["rows"] == []
    (gone,) = told["gone"]
    assert {gone["name_a"], gone["name_b"]} == {"Lower", "Upper"}
    (position,) = work.store.document(pair).document.positions
    _, told = run(positions=[position.id])
    (row,) = told["rows"]
    assert (row["position_name"], row["depth"]) == ("Deep", pytest.approx(0.8, rel=1e-6))
    # Asked again, what was found before is looked at again: the newest, and held against the last run.
    first_way = work.services.jobs.start("interference", pair, {})
    _, told = run(clearance=2.5)
    assert work.store.jobs(pair)[0].id != first_way.id
    again = work.services.jobs.start("interference", pair, {}, looked_at=True)
    assert again.id == first_way.id
    assert work.store.jobs(pair)[0].id == first_way.id
    (row,) = told["rows"]
    assert (row["class"], row["gap"]) == ("clear", pytest.approx(2.0))
    outer = work.make("assembly", {"do": "add_component", "document": pair, "name": "Pair"})
    work.do(pair, {"do": "edit_component", "id": "c2", "placement": {"p": (0.0, 0.0, 9.5)}})
    assert len(work.run("interference", outer).result["rows"]) == 1
    assert work.run("interference", outer, inside=False).result["rows"] == []
    work.do(pair, {"do": "remove_component", "id": "c2", "with_joints": True})
    assert work.store.document(pair).document.meant == ()


def test_how_far_a_joint_goes_to_either_side(work):
    """Two plates end to end, the one free to slide off the other: into it, it cannot go."""
    ends = [{"component": c, "pick": work.right} for c in ("c1", "c2")]
    pair = work.make(
        "assembly",
        {"do": "add_component", "document": work.part, "name": "Rail"},
        {"do": "add_component", "document": work.part, "name": "Slide"},
        {"do": "add_joint", "kind": "prismatic", "name": "Way", "a": ends[0], "b": ends[1],
         "motions": {"slide": {"most": "12 mm"}}},
    )  # fmt: skip
    (joint,) = work.store.document(pair).document.joints
    job = work.run("reach", pair, joint=joint.id)
    assert job.state == "done", job.error
    told = work.services.jobs.view(job)["result"]
    ends = {e["why"]: e for e in told["ends"]}
    assert {ends["clash"]["name_a"], ends["clash"]["name_b"]} == {"Slide", "Rail"}
    assert ends["clash"]["value"] == pytest.approx(0, abs=2e-3)
    assert ends["own"]["value"] == pytest.approx(12)
    assert told["unit"] == "mm"


def test_what_is_wrong_is_told_in_words(work):
    empty = work.make("study", part=work.part)
    job = work.run("strength", empty)
    assert job.state == "failed"
    assert "support" in job.error["text"]
    with pytest.raises(BadInput, match="motion"):
        work.services.jobs.start("motion", work.assembly, {"joint": "j1"})
    with pytest.raises(BadInput, match="works on assembly"):
        work.services.jobs.start("interference", work.part, {})
    with pytest.raises(BadInput, match="did you mean interference"):
        work.services.jobs.start("interferences", work.part, {})


def test_stored_files_travel(work):
    """An import step reads a file by its id alone."""
    from vireo.work.files import file_of

    record = work.store.document(work.part)
    data = file_of(work.services.builds, record, "step", 0.05)
    file = work.store.put_blob(work.id, "plate.step", data)
    part = work.make(
        "part", {"do": "set_material", "material": "S235"},
        {"do": "add_parameter", "name": "bore", "formula": "4 mm"},
        {"do": "add_step", "kind": "import", "fields": {"file": file, "form": "step"}},
    )  # fmt: skip
    # Nobody has built it yet: those who share the points out have the file, too.
    points = work.run(
        "vary", part, ranges=[{"name": "bore", "least": "3", "most": "9", "count": 5}]
    )
    assert points.state == "done", points.error
    assert [r["volume"] for r in points.result["rows"]] == pytest.approx([24000] * 5)
    pair = work.make(
        "assembly",
        {"do": "add_component", "document": part, "name": "Taken"},
        {"do": "add_component", "document": work.part, "name": "Own"},
    )
    _, ask = work.services.jobs.asked("interference", pair, {})
    assert b"ISO-10303" not in repr(ask).encode()
    job = work.run("interference", pair)
    assert job.state == "done", job.error
    assert job.result["volume"] == pytest.approx(24000)


def family(work, count):
    """A plate in so many lengths, and what each weighs (g)."""
    part = work.make(
        "part", {"do": "set_material", "material": "S235"},
        {"do": "add_parameter", "name": "w", "formula": "60 mm"},
        {"do": "add_step", "kind": "sketch", "fields": {"drawing": work.drawing}},
        {"do": "add_step", "kind": "extrude", "fields": {"sketch": "s1", "depth": "10 mm"}},
        {"do": "add_column", "drives": "parameter", "of": {"name": "w"}},
    )  # fmt: skip
    column = work.store.document(part).document.columns[0].id
    work.do(part, *(
        {"do": "add_variant", "name": f"No {n}", "cells": {column: {"formula": f"{20 + n} mm"}}}
        for n in range(count)
    ))  # fmt: skip
    return part, [(20 + n) * 40 * 10 * 7.85e-3 for n in range(count)]


def plain(job):
    """Rows without how long they took."""
    assert job.state == "done", job.error
    return [{k: v for k, v in row.items() if k != "seconds"} for row in job.result["rows"]]


def test_two_hundred_variants_are_the_same_on_a_cluster_and_a_machine_that_dies_costs_nothing(
    tmp_path_factory,
):
    cluster = Cluster(2)
    here, far = (Project(serve(tmp_path_factory, a)) for a in (None, cluster.address))
    try:
        rows = []
        for work in (here, far):
            part, weights = family(work, 200)
            ids = [v.id for v in work.store.document(part).document.variants]
            job = work.services.jobs.start("prove", part, {"variants": ids})
            if work is far:
                while (halfway := work.store.job(job.id)).progress < 0.2:
                    assert halfway.state in ("queued", "running"), halfway.error
                    time.sleep(0.01)
                assert halfway.progress < 0.8
                cluster.lent[0].kill()
                cluster.lent[0].wait(20)
            rows.append(plain(work.services.jobs.wait(job.id, 300)))
        assert rows[0] == rows[1]
        assert [r["mass"] for r in rows[0]] == pytest.approx(weights)
        # With the scheduler gone that is said, in words; nothing else is hindered.
        cluster.scheduler.kill()
        cluster.scheduler.wait(20)
        lost = far.run("vary", part, ranges=[{"name": "w", "least": "20 mm", "most": "30 mm"}])
        assert (lost.state, lost.error["code"]) == ("failed", "cluster_lost")
        assert "does not answer" in lost.error["text"]
        assert far.services.builds.build(part)["mass"] == pytest.approx(60 * 40 * 10 * 7.85e-3)
    finally:
        cluster.end()
        here.services.close()
        far.services.close()


def test_waiting_jobs_stop_at_once_and_running_ones_soon(work):
    """The background lane has one place here, the cluster two: fill them, then queue one more."""
    fine = [work.make("study", {"do": "add_support", "faces": [work.left]},
                      {"do": "add_load", "kind": "force", "faces": [work.right], "size": f"{n} N"},
                      {"do": "set_mesh", "size": "1.1 mm"}, part=work.part)
            for n in (1, 2, 3)]  # fmt: skip
    jobs = [work.services.jobs.start("strength", id, {}) for id in fine]
    places = 2 if work.far else 1
    try:
        end = time.monotonic() + 120
        while time.monotonic() < end:
            states = [work.store.job(j.id).state for j in jobs]
            if states.count("running") == places:
                break
            time.sleep(0.05)
        waiting = next(j for j, s in zip(jobs, states, strict=True) if s == "queued")
        assert work.services.jobs.cancel(waiting.id).state == "cancelled"
    finally:  # left alone they would keep the machine busy under all that follows
        for job in jobs:
            work.services.jobs.cancel(job.id)
    for job in jobs:
        assert work.services.jobs.wait(job.id, 60).state == "cancelled"
    # The lane is free again.
    assert work.run("interference", work.assembly).state == "done"


def test_a_run_nobody_waits_for_gives_way_and_is_as_if_never_asked_for(work):
    jobs = work.services.jobs
    slow = work.make("study", {"do": "add_support", "faces": [work.left]},
                     {"do": "add_load", "kind": "force", "faces": [work.right], "size": "5 N"},
                     {"do": "set_mesh", "size": "1.1 mm"}, part=work.part)  # fmt: skip
    behind = jobs.start("strength", slow, {}, behind=True)
    assert work.run("interference", work.assembly, clearance=1.0).state == "done"
    # Whoever saw it is told what became of it; nobody else sees it.
    assert jobs.wait(behind.id, 60).state == "forgotten"
    assert work.store.jobs(slow) == []
    assert jobs.known("strength", slow, {}) is None
    work.store.clear_forgotten()
    with pytest.raises(NotFound):
        work.store.job(behind.id)


def test_news_that_come_late_change_no_job_that_has_ended(work):
    job = work.store.put_job("interference", "late", work.assembly, {})
    assert work.store.update_job(job.id, state="running", progress=0.5)
    assert work.services.jobs.cancel(job.id).state == "cancelled"
    assert not work.store.update_job(job.id, state="running", stage="begun", progress=0.7)
    left = work.store.job(job.id)
    assert (left.state, left.stage) == ("cancelled", "")


def test_a_call_that_waits_for_a_worker_is_stopped(work):
    stop = threading.Event()
    stop.set()
    with pytest.raises(Cancelled):
        work.services.queue.call("topology", {"key": "x"}, cancel=stop)


# Keys


SILENT = {
    "part": st.sampled_from([
        {"do": "rename_document", "name": "Other"}, {"do": "rename_step", "id": "s2", "name": "Up"},
        {"do": "rename_parameter", "name": "w", "new": "breadth"},
        {"do": "edit_parameter", "name": "thick", "note": "as ordered", "group": "Sheet"},
        {"do": "edit_parameter", "name": "thick", "formula": "1 cm"},
        {"do": "add_parameter", "name": "unused", "formula": "3 mm"},
        {"do": "move_parameter", "name": "thick", "to": 0},
        {"do": "set_units", "units": {"length": "in"}},
        {"do": "set_body", "body": "b_s2", "name": "Plate", "colour": "#112233", "opacity": 0.5},
        {"do": "set_target", "id": "s2", "target": "1 kg"},
        {"do": "set_template", "on_offer": True},
        {"do": "add_check", "kind": "mass", "name": "Light", "limit": "1 kg"},
        {"do": "keep_view", "view": {"name": "Top", "eye": [0, 0, 9], "up": [0, 1, 0],
                                     "target": [0, 0, 0], "height": 9, "hidden": ["b_s2"]}},
    ]),
    "assembly": st.sampled_from([
        {"do": "rename_document", "name": "Other"},
        {"do": "edit_component", "id": "c1", "name": "Base", "tag": "bought"},
        {"do": "rename_parameter", "name": "swing", "new": "turn"},
        {"do": "edit_parameter", "name": "swing", "formula": "9 deg"},  # nothing uses it
        {"do": "add_check", "kind": "mass", "name": "Light", "limit": "1 kg"},
        {"do": "set_units", "units": {"length": "in"}},
    ]),
    "study": st.sampled_from([
        {"do": "rename_document", "name": "Other"},
        {"do": "rename_parameter", "name": "hand", "new": "one"},
        {"do": "edit_condition", "id": "u1", "fields": {"name": "Held"}},
        {"do": "edit_condition", "id": "f2", "fields": {"name": "Pull"}},
        {"do": "edit_parameter", "name": "hand", "formula": "0.01 kN"},
        {"do": "add_check", "kind": "safety", "name": "Holds", "limit": "2"},
    ]),
}  # fmt: skip
HEARD = {
    "part": [
        {"do": "edit_parameter", "name": "w", "formula": "61 mm"},
        {"do": "edit_step", "id": "s2", "fields": {"depth": "11 mm"}},
        {"do": "sleep_step", "id": "s2", "asleep": True},
        {"do": "set_marker", "at": 1},
        {"do": "set_body", "body": "b_s2", "tool": True},
    ],
    "assembly": [
        {"do": "place_components", "placements": {"c2": {"p": [0.0, 1.0, 9.5]}}},
        {"do": "remove_component", "id": "c2"},
    ],
    "study": [
        {"do": "edit_parameter", "name": "hand", "formula": "11 N"},
        {"do": "set_mesh", "size": "7 mm"},
        {"do": "edit_condition", "id": "f2", "fields": {"direction": [0, 1, 0]}},
        {"do": "remove_condition", "id": "u1"},
    ],
}  # fmt: skip


@pytest.fixture(scope="module")
def still(tmp_path_factory):
    services = Services.open(tmp_path_factory.mktemp("keys"), workers=1)
    yield Project(services)
    services.close()


def edited(still, edits):
    """The keys of both heavy questions after some edits, which are then taken back."""
    heads = {k: still.store.document(getattr(still, k)).revision for k in SILENT}
    try:
        for kind, command in edits:
            still.do(getattr(still, kind), command)
        return still.key("strength", still.study), still.key("interference", still.assembly)
    finally:
        for kind, head in heads.items():
            id = getattr(still, kind)
            while still.store.document(id).revision != head:
                still.store.undo(id, still.store.document(id).revision)


@given(st.lists(st.sampled_from(sorted(SILENT)).flatmap(
    lambda k: SILENT[k].map(lambda c: (k, c))), max_size=4, unique_by=repr))  # fmt: skip
@settings(
    max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
def test_edits_that_change_no_answer_ask_nothing_anew(still, edits):
    renamed = {e[1].get("name") for e in edits if e[1]["do"] == "rename_parameter"}
    edits = [
        e for e in edits if e[1]["do"] == "rename_parameter" or e[1].get("name") not in renamed
    ]
    assert edited(still, edits) == edited(still, [])


@pytest.mark.parametrize(("kind", "n"), [(k, n) for k, cs in HEARD.items() for n in range(len(cs))])
def test_edits_that_change_an_answer_ask_anew(still, kind, n):
    command = HEARD[kind][n]
    strength, overlap = edited(still, [])
    changed = edited(still, [(kind, command)])
    assert (changed[0] != strength) == (kind in ("part", "study"))
    assert (changed[1] != overlap) == (kind in ("part", "assembly"))


def test_the_same_problem_is_solved_once_whoever_asks(still):
    """A copy of a study has another key only where its content differs; a part rebuilt to the same
    body is not solved again."""
    first = still.run("strength", still.study)
    assert first.state == "done", first.error
    document = still.store.document(still.study).document
    twin = still.store.create_document(still.id, load_document(document.model_dump(mode="json")))
    begun = time.perf_counter()
    job = still.services.jobs.start("strength", twin, {})
    assert job.state == "done"
    assert job.result == first.result
    assert time.perf_counter() - begun < 60  # it is answered, not waited for


def test_every_job_says_what_it_works_on():
    from vireo.core.documents import DOCUMENT_KINDS

    assert JOBS
    for kind in JOBS.values():
        assert set(kind.documents) <= set(DOCUMENT_KINDS)
        assert (kind.run.__doc__ or "").strip()
