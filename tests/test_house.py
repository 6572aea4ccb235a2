"""What the house promises: no interface in the core, pins without addresses, the desktop's files, the Qt guard."""

import ast
import configparser
import os
import platform
import re
import subprocess
import sys
import xml.etree.ElementTree as ElementTree
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
SRC = ROOT / "src" / "fenmist"


def test_everything_but_the_desk_is_imported_without_qt():
    names = [
        ".".join(path.relative_to(ROOT / "src").with_suffix("").parts).removesuffix(".__init__")
        for path in sorted(SRC.rglob("*.py"))
        if "desk" not in path.parts and path.name != "__main__.py"
    ]
    code = f"import importlib, sys\nfor name in {names!r}: importlib.import_module(name)\n" + (
        "heavy = ('PySide6', 'shiboken6', 'pyqtgraph', 'scipy', 'matplotlib', 'typst')\n"
        "print([name for name in heavy if name in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)

    assert done.stdout.strip() == "[]"


def test_a_start_into_the_list_imports_nothing_of_a_job_and_reads_no_source(demo_file):
    code = f"""
import linecache, sys
from pathlib import Path
from fenmist.desk.app import Start, application
start = Start(application())
start.open(Path({str(demo_file)!r}))
start.application.processEvents()
print(start.shell.here, sys.modules.keys() & {{"numpy", "fenmist.kit.part", "fenmist.calibration.job"}})
print([name for name in linecache.cache if "fenmist" in name])
"""
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": str(demo_file.parent)}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env=env)

    assert done.stdout.splitlines() == ["logbook set()", "[]"]


@pytest.mark.skipif(platform.libc_ver()[0] != "glibc", reason="another C library keeps memory its own way")
def test_memory_of_large_arrays_is_not_taken_from_the_system_each_time():
    """Common practice, no source: 4 KB a page, so a megabyte that comes from the system anew is 256 faults."""
    code = """
import fenmist, numpy as np, resource
def work():
    for _ in range(100): np.ones(1 << 17) + np.ones(1 << 17)
work()
before = resource.getrusage(resource.RUSAGE_SELF).ru_minflt
work()
print(resource.getrusage(resource.RUSAGE_SELF).ru_minflt - before)
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)

    assert int(done.stdout) < 256


@pytest.mark.parametrize("name", ["requirements.txt", "requirements-test.txt"])
def test_pins_are_names_and_exact_versions_only(name):
    lines = [line for line in (ROOT / name).read_text().splitlines() if line and not line.startswith("#")]

    assert lines
    for line in lines:
        assert line == "-r requirements.txt" or re.fullmatch(r"[\w.-]+==[\w.]+", line), line


def test_every_installed_pin_is_what_the_file_says():
    from importlib.metadata import version

    for line in (ROOT / "requirements.txt").read_text().splitlines():
        if "==" in line:
            name, wanted = line.split("==")
            assert version(name) == wanted, name


def test_none_is_not_eaten_by_qt():
    """PySide6 6.12.0 on Python 3.11 drops a reference to None at each call and aborts after some thousands."""
    code = (
        "import os, sys; os.environ['QT_QPA_PLATFORM'] = 'offscreen'\n"
        "from PySide6.QtGui import QColor, QPainter, QPen, QPixmap\n"
        "from PySide6.QtWidgets import QApplication, QLabel\n"
        "app = QApplication([]); label = QLabel(); picture = QPixmap(8, 8); painter = QPainter(picture)\n"
        "before = sys.getrefcount(None)\n"
        "for n in range(5000):\n"
        "    painter.setPen(QPen(QColor('red'), 1.0)); label.setText(str(n))\n"
        "painter.end(); print(sys.getrefcount(None) - before)\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)

    assert abs(int(done.stdout)) < 500


def test_desktop_file_metadata_and_icon_are_installed():
    prefix = Path(sys.prefix) / "share"
    desktop = configparser.ConfigParser(interpolation=None)
    desktop.read(prefix / "applications" / "io.fenmist.Fenmist.desktop")
    meta = ElementTree.parse(prefix / "metainfo" / "io.fenmist.Fenmist.metainfo.xml").getroot()
    icon = prefix / "icons" / "hicolor" / "scalable" / "apps" / "io.fenmist.Fenmist.svg"

    assert desktop["Desktop Entry"]["Exec"].startswith("fenmist")
    assert desktop["Desktop Entry"]["Icon"] == icon.stem
    assert meta.findtext("id") == "io.fenmist.Fenmist"
    assert ElementTree.parse(icon).getroot().tag.endswith("svg")


def test_functions_and_files_keep_to_the_houses_sizes():
    functions, files = [], []
    for path in SRC.rglob("*.py"):
        text = path.read_text("utf-8")
        files.append(len(text.splitlines()))
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.FunctionDef):
                functions.append((node.end_lineno or 0) - node.lineno + 1)
    functions.sort()
    files.sort()

    assert functions[len(functions) // 2] <= 10
    assert functions[int(0.9 * len(functions))] <= 30
    assert files[len(files) // 2] <= 150
    assert files[int(0.9 * len(files))] <= 400
    assert files[-1] < 1000


def test_method_pages_are_where_the_code_says():
    named = {match for path in SRC.rglob("*.py") for match in re.findall(r"docs/[\w/.-]+\.md", path.read_text("utf-8"))}

    assert named
    for name in named:
        assert (ROOT / name).exists(), name
    numbers = re.findall(r"docs/decisions/(\d{4})\b", " ".join(p.read_text("utf-8") for p in SRC.rglob("*.py")))
    for number in numbers:
        assert list((ROOT / "docs" / "decisions").glob(f"{number}-*.md")), number


def test_every_method_page_has_a_number_that_is_recomputed():
    for page in (ROOT / "docs" / "method").glob("*.md"):
        if page.name not in ("glossary.md", "coverage.md"):  # a list of words; written by its study
            assert ">>> " in page.read_text("utf-8"), page.name


def test_every_rule_stands_on_the_page_of_rules_and_no_other():
    source = "".join(
        path.read_text("utf-8")
        for place in ("judgement", "methods", "design", "procedures")
        for path in (SRC / place).rglob("*.py")
    )
    codes = set(re.findall(r'Note\(\s*"([a-z_]+\.[a-z_]+)"', source)) | set(
        re.findall(r'_Shaped\(\s*"([a-z_.]+)"', source)
    )
    page = (ROOT / "docs" / "method" / "rules.md").read_text("utf-8")
    named = {code for code in re.findall(r"`([a-z_]+\.[a-z_]+)`", page) if not code.startswith("capture")}

    assert len(codes) > 30
    assert codes == named


def test_pictures_in_the_readme_are_there():
    linked = re.findall(r"docs/screenshots/[\w-]+\.png", (ROOT / "README.md").read_text("utf-8"))

    assert linked
    for name in linked:
        assert (ROOT / name).exists(), name


def test_the_launcher_says_one_line_without_a_display():
    env = {"PATH": "/usr/bin:/bin", "HOME": "/nonexistent"}
    done = subprocess.run([sys.executable, "-m", "fenmist"], capture_output=True, text=True, env=env, check=False)

    assert done.returncode == 1
    assert len(done.stderr.strip().splitlines()) == 1
