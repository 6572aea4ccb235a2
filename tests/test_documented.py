"""What README, CONTRIBUTING and the usage text name can be run as it stands there."""

import re
import subprocess
import sys
from pathlib import Path

import pytest

from fenmist.__main__ import COMMANDS, USAGE, main
from fenmist.desk.actions import ACTIONS

ROOT = Path(__file__).parents[1]


def run(*arguments):
    return subprocess.run([sys.executable, *arguments], capture_output=True, text=True, cwd=ROOT, check=False)


def test_the_benchmarks_run():
    done = run("-m", "benchmarks", "--smoke")

    assert done.returncode == 0, done.stderr
    for said in ("painted list", "a key at", "an entry", "frames", "list of", "GTC", "million"):
        assert said in done.stdout


def named_commands():
    """`fenmist NAME` and `run.sh NAME` wherever a page for users names them."""
    pages = [ROOT / "README.md", ROOT / "CHANGELOG.md", *sorted((ROOT / "docs").rglob("*.md"))]
    text = "\n".join(page.read_text("utf-8") for page in pages) + USAGE
    return sorted(set(re.findall(r"(?:\bfenmist|run\.sh) ([a-z]{3,})(?= |`|\n)", text)))


def test_commands_are_found_in_the_pages():
    assert {"power", "capture", "reduce", "runsheet", "export"} <= set(named_commands())


@pytest.mark.parametrize("name", sorted({*named_commands(), *COMMANDS}))
def test_a_command_that_a_page_or_the_usage_text_names_is_known_and_explains_itself(name, capsys):
    assert name in COMMANDS
    assert main([name, "--help"]) == 0
    assert f"fenmist {name}" in capsys.readouterr().out


@pytest.mark.parametrize("path", re.findall(r"\]\(([^)#]+?)\)", (ROOT / "README.md").read_text("utf-8")))
def test_what_the_readme_links_to_is_there(path):
    assert (ROOT / path).exists()


@pytest.mark.parametrize("page", ["README.md", "CONTRIBUTING.md", "ARCHITECTURE.md"])
def test_files_that_the_pages_name_are_there(page):
    text = (ROOT / page).read_text("utf-8")
    named = set(re.findall(r"`((?:scripts|docs|tests|benchmarks|share|studies)/[\w./-]+)`", text))
    for name in named:
        assert (ROOT / name).exists(), name


def test_studies_that_the_pages_name_are_there():
    text = (ROOT / "CONTRIBUTING.md").read_text("utf-8")
    named = set(re.findall(r"\b(?:studies\.)?(\w+_page)\b", text))
    assert {"coverage_page", "durability_page"} <= named
    assert all((ROOT / "studies" / f"{name}.py").exists() for name in named), named


def test_keys_that_the_readme_names_are_keys_of_actions():
    text = (ROOT / "README.md").read_text("utf-8")
    named = set(re.findall(r"\b(?:Ctrl\+\w|Alt\+\d|F\d{1,2})\b", text))
    known = {action.shortcut for action in ACTIONS}
    assert named
    assert named <= known, named - known
