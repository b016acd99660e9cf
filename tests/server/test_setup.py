"""The set-up on a bare Debian 12 with nothing but Python 3.11 and make, as the README promises."""

from __future__ import annotations

import os
import shutil
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]

pytestmark = pytest.mark.skipif(
    os.geteuid() != 0 or shutil.which("debootstrap") is None,
    reason="a root folder of its own needs root and debootstrap",
)


@pytest.fixture(scope="module")
def bare(tmp_path_factory):
    """A root folder as a fresh machine has it, the project's tracked files in /work."""
    root = tmp_path_factory.mktemp("bare") / "root"
    subprocess.run(
        ["debootstrap", "--variant=minbase", "--include=python3.11,make", "bookworm", str(root)],
        check=True, capture_output=True, timeout=400,
    )  # fmt: skip
    for name in ("hosts", "resolv.conf"):
        shutil.copy(f"/etc/{name}", root / "etc" / name)
    tracked = subprocess.run(
        ["git", "ls-files", "-z", "Makefile", "tools", "requirements.txt", "pyproject.toml"],
        cwd=ROOT, check=True, capture_output=True, text=True,
    ).stdout  # fmt: skip
    for name in filter(None, tracked.split("\0")):
        (root / "work" / name).parent.mkdir(parents=True, exist_ok=True)
        shutil.copy(ROOT / name, root / "work" / name)
    return root


def run(root: Path, command: str, user: str = "root") -> subprocess.CompletedProcess[str]:
    chroot = ["chroot", f"--userspec={user}", str(root), "/bin/sh", "-c", f"cd /work && {command}"]
    env = {"PATH": "/usr/sbin:/usr/bin:/sbin:/bin", "HOME": "/tmp"}
    return subprocess.run(chroot, check=False, capture_output=True, text=True, timeout=300, env=env)


def test_a_bare_machine_is_set_up(bare):
    # Without root it says what is missing, and leaves nothing half made behind.
    (bare / "work").chmod(0o777)
    asked = run(bare, "make setup", "nobody")
    assert asked.returncode != 0
    assert "python3.11-venv" in asked.stderr
    assert "As root run: apt-get" in asked.stderr
    assert not (bare / "work/.venv").exists()

    # The environment an older set-up left half made does not stop it.
    broken = bare / "work/.venv/bin"
    broken.mkdir(parents=True)
    (broken / "python").symlink_to("/usr/bin/python3.11")
    done = run(bare, "tools/setup.sh python")
    assert done.returncode == 0, done.stderr
    assert [line.split(":")[0] for line in done.stderr.strip().splitlines()] == [
        "Installing Debian packages",
        "The Python environment in .venv is broken",
    ]
    assert "pip" in run(bare, ".venv/bin/python -m pip --version").stdout

    # Once it stands, it is left alone and nothing is said.
    again = run(bare, "tools/setup.sh python")
    assert (again.returncode, again.stderr) == (0, "")
