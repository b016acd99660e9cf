"""Files brought in: which format, its shapes read strictly. Runs in workers only: damaged files
can take the process down."""

from __future__ import annotations

import io
import re
import tempfile
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from OCP.BinTools import BinTools
from OCP.BRep import BRep_Builder
from OCP.BRepTools import BRepTools
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.IGESControl import IGESControl_Controller, IGESControl_Reader
from OCP.Message import Message
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TDocStd import TDocStd_Document
from OCP.TopoDS import TopoDS_Shape

from vireo.core.exchange.meshfile import is_mesh
from vireo.core.exchange.steptext import legible
from vireo.core.kernel.looks import Dress, dresses, new_document
from vireo.core.kernel.shape import faces_of
from vireo.core.trouble import BadInput


def quiet() -> None:
    """No chatter of the kernel on the process's output."""
    Message.DefaultMessenger_s().ChangePrinters().Clear()


def form_of(data: bytes) -> str:
    """``step``, ``iges``, ``brep`` or ``mesh``, by content. Raises BadInput."""
    if data.lstrip()[:20].startswith(b"ISO-10303-21"):
        return "step"
    if is_mesh(data):
        return "mesh"
    head = data[:400]
    if head.lstrip().startswith((*_BREP, _BINARY_BREP)):
        return "brep"
    first = data.split(b"\n", 1)[0].rstrip(b"\r")
    if len(first) >= 73 and first[72:73] == b"S":
        return "iges"
    raise BadInput("this file is none of STEP, IGES, BREP, STL and 3MF")


#: How the formats of the kernel's family begin: as text and as bytes.
_BREP = (b"DBRep_DrawableShape", b"CASCADE Topology")
_BINARY_BREP = b"Open CASCADE Topology V"


@dataclass(frozen=True)
class Contents:
    """All that a file holds as one shape (mm), and how each of its solids is dressed, in their
    order; the formats without names and colours have none."""

    shape: TopoDS_Shape
    dresses: list[Dress] = field(default_factory=list)


def read_shape(data: bytes) -> Contents:
    """What a STEP, IGES or BREP file holds.

    Raises BadInput for a file that does not parse, is cut short, or holds nothing.
    """
    quiet()
    found = _READERS[form_of(data)](data)
    if found is None or found.shape.IsNull() or not faces_of(found.shape):
        raise BadInput("this file holds no face, only curves or nothing at all")
    return found


def step_document(data: bytes) -> tuple[STEPCAFControl_Reader, TDocStd_Document] | None:
    """A STEP file read into a document of the kernel; None for one without shapes. Raises
    BadInput."""
    quiet()
    if b"END-ISO-10303-21" not in data[-2000:]:
        raise BadInput("this STEP file is cut short: its end is missing")
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    status = reader.ReadStream("file.step", io.BytesIO(legible(data)))
    # Transferring after a failed read is known to crash the process.
    if status != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise BadInput("this STEP file cannot be read: its contents do not parse")
    document = new_document()
    if not reader.Transfer(document) or not reader.Reader().NbShapes():
        return None
    return reader, document


def _step(data: bytes) -> Contents | None:
    found = step_document(data)
    if found is None:
        return None
    reader, document = found
    shape = reader.Reader().OneShape()
    return Contents(shape, dresses(shape, document))


def _iges(data: bytes) -> Contents | None:
    last = data.rstrip().rsplit(b"\n", 1)[-1].rstrip(b"\r")
    if last[72:73] != b"T":
        raise BadInput("this IGES file is cut short: its closing line is missing")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "in.igs"
        path.write_bytes(data)
        IGESControl_Controller.Init_s()
        reader = IGESControl_Reader()
        if reader.ReadFile(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
            raise BadInput("this IGES file cannot be read: its contents do not parse")
        reader.TransferRoots()
        return Contents(reader.OneShape()) if reader.NbShapes() else None


def _brep(data: bytes) -> Contents | None:
    if data[:60].lstrip().startswith(_BINARY_BREP):
        return _binary_brep(data)
    # The reader never comes back from a text that ends early: its last table must be there.
    if b"\nTShapes " not in data or not re.search(rb"\n\s*\n[+-]\d+ \d+\s*$", data[-80:]):
        raise BadInput("this BREP file is cut short: its table of shapes is not whole")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "in.brep"
        path.write_bytes(data)
        shape = TopoDS_Shape()
        BRepTools.Read_s(shape, str(path), BRep_Builder())
        return Contents(shape)


def _binary_brep(data: bytes) -> Contents:
    return Contents(binary_shape(data))


def binary_shape(data: bytes) -> TopoDS_Shape:
    """The shape of a binary file of the kernel's own, of whatever form. Raises BadInput."""
    if not data[:60].lstrip().startswith(_BINARY_BREP):
        raise BadInput("this is no file of shapes")
    shape = TopoDS_Shape()
    try:
        BinTools.Read_s(shape, io.BytesIO(data))
    except Exception as error:  # a dozen classes of the kernel, by where it breaks off
        raise BadInput("this BREP file is cut short or damaged: it cannot be read") from error
    return shape


_READERS: dict[str, Callable[[bytes], Contents | None]] = {
    "step": _step, "iges": _iges, "brep": _brep,
}  # fmt: skip
