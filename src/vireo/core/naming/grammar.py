"""How bodies, faces, edges and corners are called: the only place that makes such names or takes
them apart.

A body is ``b_<step>``; further ones of the same step carry a mark, ``b_s4_2``, and copies the step
whose body they repeat, ``b_s9_2_s4``. A face is ``<step>/<role>``, with what it came from behind
(``s4/side/c2``, ``s7/round/s4/top``); one grown from several is called after all of them,
``s4/top&s6/top``, and answers to each. An edge is called by the faces it bounds, a corner by those
that meet in it. Bodies, faces, edges and corners of a part inside an assembly stand behind the
components that lead to them, ``c1/c4/b_s2``; a copy of a component is called after it, the copies
and its number, ``c1_r7_2``.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

_BODY = "b_"
_MARK = "_"
_OF = "/"
_AND = "&"
_ABOUT = "|"


# Bodies


def body_name(step: str, *marks: str | int) -> str:
    """The name of a body a step makes; `marks` tell it from others of the step.

    >>> body_name("s9", 2, "s4")
    'b_s9_2_s4'
    """
    return _BODY + _MARK.join([step, *(str(m) for m in marks if m != "")])


def piece_name(body: str, step: str, number: int) -> str:
    """The name of a further piece of a body that a step parted.

    >>> piece_name("b_s4", "s9", 1)
    'b_s4_s9_1'
    """
    return _MARK.join([body, step, str(number)])


def is_body(name: str) -> bool:
    """Whether a name is that of a body, and not of a step: sets of bodies are named by steps.

    >>> is_body("b_s4"), is_body("s4")
    (True, False)
    """
    return name.startswith(_BODY)


def marks_of(body: str) -> list[str]:
    """The step that made a body, and what tells it from others of that step.

    >>> marks_of("b_s9_2_s4")
    ['s9', '2', 's4']
    """
    return body.removeprefix(_BODY).split(_MARK)


def maker_of(body: str) -> str:
    """The step that made a body.

    >>> maker_of("b_s9_2")
    's9'
    """
    return marks_of(body)[0]


def behind(body: str) -> str:
    """A body's name as a mark of another: what copies of it carry.

    >>> body_name("s9", 1, behind("b_s4_2"))
    'b_s9_1_s4_2'
    """
    return body.removeprefix(_BODY)


# Faces


def face_name(*parts: str | int) -> str:
    """The name of a face: the step, its role, what it came from. Also a stretch of a name.

    >>> face_name("s4", "side", "c2")
    's4/side/c2'
    """
    return _OF.join(str(p) for p in parts)


def parts_of(face: str) -> list[str]:
    """The names a face answers to: one, or all of those it was grown from.

    >>> parts_of("s4/top&s6/top")
    ['s4/top', 's6/top']
    """
    return face.split(_AND)


def joined(names: Iterable[str]) -> str:
    """The name of a face grown from several; a single one stays as it is.

    >>> joined(["s6/top", "s4/top&s6/top"])
    's4/top&s6/top'
    """
    if len(names := set(names)) == 1:
        return next(iter(names))
    return _AND.join(sorted({part for n in names for part in parts_of(n)}))


def is_joined(face: str) -> bool:
    return _AND in face


def all_parts(faces: Iterable[str]) -> set[str]:
    """All names that some faces answer to."""
    return {part for n in faces for part in parts_of(n)}


def answers(face: str, name: str) -> bool:
    """Whether a face is called so, alone or with others.

    >>> answers("s4/top&s6/top", "s6/top"), answers("s4/top", "s4")
    (True, False)
    """
    return name in parts_of(face)


def under(face: str, *start: str | int) -> bool:
    """Whether one of a face's names goes on from these words.

    >>> under("s4/top&s9/2/top", "s9", 2), under("s9/21/top", "s9", 2)
    (True, False)
    """
    wanted = face_name(*start) + _OF
    return any(part.startswith(wanted) for part in parts_of(face))


def words_of(part: str) -> list[str]:
    """The words of one name.

    >>> words_of("s4/side/c2")
    ['s4', 'side', 'c2']
    """
    return part.split(_OF)


def after(part: str, count: int) -> str | None:
    """What stands behind the first words of a name: where it came from; None when nothing does.

    >>> after("s7/base/s4/top", 2), after("s7/rim", 2)
    ('s4/top', None)
    """
    words = part.split(_OF, count)
    return words[count] if len(words) > count else None


def step_of(part: str) -> str:
    """The step that made a face last.

    >>> step_of("s7/round/s4/top")
    's7'
    """
    return part.split(_OF, 1)[0]


def makers_of(faces: Iterable[str]) -> set[str]:
    """The steps that made some faces last.

    >>> sorted(makers_of(["s4/top&s6/top", "s7/rim"]))
    ['s4', 's6', 's7']
    """
    return {step_of(part) for part in all_parts(faces)}


def came_from(face: str, steps: set[str]) -> bool:
    """Whether steps made a face, or what it came from.

    >>> came_from("s9/2/s4/top", {"s4"})
    True
    """
    return any(steps & set(words_of(part)) for part in parts_of(face))


def taken_by(face: str, step: str) -> str:
    """A face of another document as a step's here: each of its names stands behind the step.

    >>> taken_by("s4/top&s6/top", "s9")
    's9/s4/top&s9/s6/top'
    """
    return _AND.join(face_name(step, part) for part in parts_of(face))


def piece(face: str, step: str, number: int) -> str:
    """A face that a step parted into several, by number.

    >>> piece("s4/top", "s9", 2)
    's4/top/s9.2'
    """
    return f"{face}{_OF}{step}.{number}"


def whole_of(face: str, step: str) -> str:
    """The face that a piece was parted from by a step; itself when it was not.

    >>> whole_of("s4/top/s9.2", "s9"), whole_of("s4/top", "s9")
    ('s4/top', 's4/top')
    """
    return face.split(f"{_OF}{step}.", 1)[0]


def source_of(face: str, role: str) -> str:
    """What a face came from: what stands behind its role; the whole name when it has none such.

    >>> source_of("s9/2/s7/inner/s4/top", "inner")
    's4/top'
    """
    return face.split(f"{_OF}{role}{_OF}", 1)[-1]


# Edges and corners


def meeting(faces: Iterable[str]) -> tuple[str, ...]:
    """The name of an edge by the faces it bounds, or of a corner by those that meet in it."""
    return tuple(sorted(faces))


def with_size(face: str, size: float) -> str:
    """A face with its area to six digits: what a set of untouched faces remembers."""
    return f"{face}{_ABOUT}{size:.6g}"


# Inside an assembly


def leaf_name(path: Sequence[str], body: str) -> str:
    """A body in an assembly, by the components that lead to it.

    >>> leaf_name(("c1", "c4"), "b_s2")
    'c1/c4/b_s2'
    """
    return _OF.join((*path, body))


def copy_of(component: str, copies: str, number: int) -> str:
    """A copy of a component of an assembly, by its number: the original has 1.

    >>> copy_of("c3", "r7", 2)
    'c3_r7_2'
    """
    return f"{component}{_MARK}{copies}{_MARK}{number}"


def original_of(component: str) -> str:
    """The component that a copy was made of; itself when it is none.

    >>> original_of("c3_r7_2"), original_of("c3")
    ('c3', 'c3')
    """
    return component.split(_MARK, 1)[0]


def numbers_of(component: str) -> list[str]:
    """The numbers of a copy, and of what that was copied of; none for what is no copy.

    >>> numbers_of("c3_r7_2_r9_4"), numbers_of("c3")
    (['2', '4'], [])
    """
    return component.split(_MARK)[2::2]


def within(path: Sequence[str]) -> str:
    """A component inside others, by those that lead to it.

    >>> within(("c1", "c4"))
    'c1/c4'
    """
    return _OF.join(path)


def top_of(component: str) -> str:
    """The outermost of the components that lead to one.

    >>> top_of("c1/c4"), top_of("c1")
    ('c1', 'c1')
    """
    return component.split(_OF, 1)[0]


def path_of(leaf: str) -> list[str]:
    """The components that lead to a body in an assembly, from the outside.

    >>> path_of("c1/c4/b_s2")
    ['c1', 'c4']
    """
    return leaf.split(_OF)[:-1]


def holder_of(leaf: str) -> str:
    """The occurrence of a part that a body in an assembly belongs to.

    >>> holder_of("c1/c4/b_s2")
    'c1/c4'
    """
    return leaf.rsplit(_OF, 1)[0]


def component_of(leaf: str) -> str:
    """The component of the assembly itself that a body belongs to.

    >>> component_of("c1/c4/b_s2")
    'c1'
    """
    return leaf.split(_OF, 1)[0]
