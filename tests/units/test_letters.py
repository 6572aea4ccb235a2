"""What paper can print, against the faces themselves."""

from pathlib import Path

import pytest
from fontTools.ttLib import TTFont

from fenmist.reports.fonts import ALL_FONTS, FALLBACK_FONTS, PAPER_FAMILIES, SANS, font_file
from fenmist.units.letters import printable, unprintable

CONTROLS = {*range(0x20), *range(0x7F, 0xA0)}


@pytest.fixture(scope="module")
def in_faces():
    return set().union(*(TTFont(font_file(name)).getBestCmap() for name in (SANS, *FALLBACK_FONTS)))


def test_what_is_said_to_be_printable_is_in_a_face_of_paper(in_faces):
    said = {code for code in range(0x21, 0x20000) if not 0xD800 <= code < 0xE000 and printable(chr(code)) == chr(code)}

    assert said - in_faces - {0x200C, 0x200D} == set()
    assert len(said) > 20_000
    assert not said & CONTROLS


def test_nothing_that_names_are_written_in_is_missing(in_faces):
    """Greetings and names in twenty scripts; common practice, no source."""
    text = (
        "株式会社鷺沢製作所 すずき たかはし 김철수 王小明 陳大文 สมชาย ใจดี Ñandú Łódź Ørsted Škoda Ελληνικά Кириллица "
        "שלום محمد علي नमस्ते ਗੁਰਮੁਖੀ বাংলা தமிழ் తెలుగు ಕನ್ನಡ മലയാളം සිංහල ລາວ ខ្មែរ မြန်မာ გამარჯობა Հայերեն አማርኛ 😀 👍 Ω µ ± − ×"
    )

    assert unprintable(text) == ()
    assert printable(text) == text
    assert {ord(letter) for letter in text} - in_faces - {0x20, 0x200C, 0x200D} == set()


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("\u0007", "[U+0007]"), ("\x1b[31m", "[U+001B][31m"), ("\ue000", "[U+E000]"), ("\u202etxt", "[U+202E]txt"),
        ("\ud800", "[U+D800]"), ("\U00020bb7", "[U+20BB7]"), ("\U000e0041", "[U+E0041]"), ("\u0378", "[U+0378]"),
        ("👍\ufe0f", "👍"), ("a\nb\tc", "a\nb\tc"), ("", ""), ("Bittern 200", "Bittern 200"), ("\u200b", "[U+200B]"),
        ("\u00a0\u202f", "\u00a0\u202f"),
    ],
    ids=ascii,
)  # fmt: skip
def test_what_has_no_shape_stands_as_its_code_point(text, shown):
    assert printable(text) == shown
    assert bool(unprintable(text)) is ("[U+" in shown)


def test_code_points_are_named_once_in_order():
    assert unprintable("\ue001a\ue000b\ue001") == ("U+E001", "U+E000")


def test_every_face_ships_and_has_the_family_that_paper_asks_for():
    for name in (*ALL_FONTS, *FALLBACK_FONTS):
        assert Path(font_file(name)).exists()
    families = {TTFont(font_file(name))["name"].getBestFamilyName() for name in (SANS, *FALLBACK_FONTS)}
    assert families == set(PAPER_FAMILIES)
