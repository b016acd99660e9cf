"""Changes made to a document in two places put together, and what differs told, whatever the changes are."""

import random

from hypothesis import given, settings
from hypothesis import strategies as st

from vireo.core.documents import dump, load_document, new_document
from vireo.core.documents.commands import apply_all
from vireo.core.documents.difference import differences, in_words
from vireo.core.documents.merging import merged

APART = 100_000


def start(count=8):
    commands = []
    for n in range(count):
        commands.append({"do": "add_parameter", "name": f"p{n}", "formula": f"{n + 1} mm"})
    for n in range(count):
        fields = {"form": "box", "width": f"p{n}", "depth": "5 mm", "height": "5 mm"}
        commands.append(
            {"do": "add_step", "kind": "primitive", "name": f"Box {n}", "fields": fields}
        )
    return apply_all(new_document("part", "Stack"), commands)[0]


def branched(document):
    return document.model_copy(update={"last_id": document.last_id + APART})


def edits(rng, own, side):
    """Random edits to what is named: parameters set, steps changed, moved, taken away, new ones made."""
    commands = []
    for n in own:
        deed = rng.choice(["set", "size", "rename", "sleep", "remove", "check", "new"])
        step = f"s{n + 1}"
        commands.append({
            "set": {"do": "edit_parameter", "name": f"p{n}", "formula": f"{side} * 10 mm"},
            "size": {"do": "edit_step", "id": step, "fields": {"depth": f"{6 + side} mm"}},
            "rename": {"do": "rename_step", "id": step, "name": f"Renamed {side} {n}"},
            "sleep": {"do": "sleep_step", "id": step, "asleep": True},
            "remove": {"do": "remove_step", "id": step},
            "check": {"do": "add_check", "kind": "mass", "name": f"Check {side} {n}", "limit": "5 g"},
            "new": {"do": "add_step", "kind": "primitive", "name": f"New {side} {n}", "fields": {
                "form": "box", "width": "1 mm", "depth": "1 mm", "height": "1 mm"}},
        }[deed])  # fmt: skip
    return commands


def told(document):
    """All there is of a document, whatever the order things were made in and how they are numbered."""
    data = dump(document)
    data.pop("last_id")
    for name, value in data.items():
        if isinstance(value, list) and value and all(isinstance(x, dict) for x in value):
            rows = [{k: v for k, v in x.items() if k != "id"} for x in value]
            data[name] = sorted(rows, key=repr)
    return data


@settings(max_examples=60)
@given(st.integers(0, 100_000))
def test_what_two_did_to_different_things_is_put_together_without_a_question(seed):
    rng = random.Random(seed)
    base = start()
    numbers = list(range(8))
    rng.shuffle(numbers)
    cut = rng.randint(1, 7)
    mine, yours = edits(rng, numbers[:cut], 1), edits(rng, numbers[cut:], 2)
    ours = apply_all(base, mine)[0]
    theirs = apply_all(branched(base), yours)[0]
    together, conflicts = merged(base, ours, theirs, {})
    assert conflicts == []
    assert told(together) == told(apply_all(ours, yours)[0])
    # The other way round it is the same.
    other, conflicts = merged(base, theirs, ours, {})
    assert conflicts == []
    assert told(other) == told(together)
    assert load_document(dump(together)) == together


@settings(max_examples=40)
@given(st.integers(0, 100_000))
def test_what_both_changed_is_asked_and_goes_as_it_is_chosen(seed):
    rng = random.Random(seed)
    base = start()
    both = rng.sample(range(8), rng.randint(1, 8))
    ours = apply_all(base, [
        {"do": "edit_parameter", "name": f"p{n}", "formula": f"{n} * 2 mm + 1 mm"} for n in both])[0]  # fmt: skip
    theirs = apply_all(branched(base), [
        {"do": "edit_parameter", "name": f"p{n}", "formula": f"{n} * 3 mm + 2 mm"} for n in both])[0]  # fmt: skip
    kept, conflicts = merged(base, ours, theirs, {})
    assert sorted(c.name for c in conflicts) == sorted(f"p{n}" for n in both)
    assert told(kept) == told(ours)
    chosen = {c.key: rng.choice(["ours", "theirs"]) for c in conflicts}
    found, again = merged(base, ours, theirs, chosen)
    assert [c.key for c in again] == [c.key for c in conflicts]
    for conflict in conflicts:
        formula = next(p.formula for p in found.parameters if p.name == conflict.name)
        assert formula == (conflict.ours if chosen[conflict.key] == "ours" else conflict.theirs)


def test_changed_by_one_and_taken_away_by_the_other_is_asked():
    base = start(2)
    ours = apply_all(base, [{"do": "edit_step", "id": "s1", "fields": {"depth": "9 mm"}}])[0]
    theirs = apply_all(branched(base), [{"do": "remove_step", "id": "s1"}])[0]
    kept, (conflict,) = merged(base, ours, theirs, {})
    assert (conflict.name, conflict.ours, conflict.theirs) == ("Box 0", "changed", "removed")
    assert [s.id for s in kept.steps] == ["s1", "s2"]
    gone, _ = merged(base, ours, theirs, {conflict.key: "theirs"})
    assert [s.id for s in gone.steps] == ["s2"]


def test_steps_moved_by_one_stay_moved_and_what_the_other_made_finds_its_place():
    base = start(4)
    ours = apply_all(base, [{"do": "move_step", "id": "s4", "to": 0}])[0]
    box = {"form": "box", "width": "1 mm", "depth": "1 mm", "height": "1 mm"}
    theirs = apply_all(branched(base), [
        {"do": "add_step", "kind": "primitive", "name": "Last", "fields": box}])[0]  # fmt: skip
    together, conflicts = merged(base, ours, theirs, {})
    assert conflicts == []
    # What was made after all others may stand on any of them.
    assert [s.name for s in together.steps] == ["Box 3", "Box 0", "Box 1", "Box 2", "Last"]
    (moved,) = differences(base, ours)
    assert (moved.sign, moved.name) == ("moved", "Box 3")


@settings(max_examples=40)
@given(st.integers(0, 100_000))
def test_every_change_is_told_and_nothing_else(seed):
    rng = random.Random(seed)
    base = start()
    assert differences(base, base) == []
    own = rng.sample(range(8), rng.randint(1, 5))
    after = apply_all(base, edits(rng, own, 3))[0]
    found = differences(base, after)
    assert len(found) == len(own) or any(d.sign == "moved" for d in found)
    assert in_words(found)
    # Back again all signs are the other way.
    turn = {"added": "removed", "removed": "added", "changed": "changed", "moved": "moved"}
    back = differences(after, base)
    assert sorted((d.group, d.id, turn[d.sign]) for d in back) == sorted(
        (d.group, d.id, d.sign) for d in found
    )
