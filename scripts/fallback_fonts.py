"""Makes the faces for names in other scripts, and the list of what all shipped faces can print.

    python scripts/fallback_fonts.py FOLDER

FOLDER holds, unpacked, Debian's packages fonts-noto-core and fonts-noto-cjk and the npm package
@expo-google-fonts/noto-emoji. Their fonts are cut down to what names are written in: whole scripts in daily use; of
Chinese, Japanese and Korean the sets of JIS X 0208, GB 2312, Big5 (level 1) and KS X 1001.
"""

import sys
from pathlib import Path

from fontTools import subset
from fontTools.ttLib import TTCollection, TTFont

FONTS = Path(__file__).resolve().parents[1] / "src" / "fenmist" / "resources" / "fonts"
SCRIPTS = (
    "Arabic", "Armenian", "Bengali", "Devanagari", "Ethiopic", "Georgian", "Gujarati", "Gurmukhi", "Hebrew", "Kannada",
    "Khmer", "Lao", "Malayalam", "Myanmar", "Oriya", "Sinhala", "Tamil", "Telugu", "Thai",
)  # fmt: skip
NOT_NEEDED = (*range(0x20), 0x7F, *range(0x80, 0xA0), *range(0xE000, 0xF900))
"""Controls, and what is for private use: no reader would see what its writer saw."""


def main(folder: Path) -> None:
    """Write the faces and the list."""
    for script in SCRIPTS:
        path = next(folder.rglob(f"NotoSans{script}-Regular.ttf"))
        _cut(TTFont(path), None, FONTS / path.name)
    _cut(TTFont(next(folder.rglob("NotoEmoji_400Regular.ttf"))), None, FONTS / "NotoEmoji-Regular.ttf", shaped=False)
    whole = TTCollection(next(folder.rglob("NotoSansCJK-Regular.ttc")))
    japanese = next(face for face in whole.fonts if face["name"].getDebugName(1) == "Noto Sans CJK JP")
    _cut(japanese, _east_asian(), FONTS / "NotoSansCJKjp-Names.otf", shaped=False)
    letters = sorted(set().union(*(TTFont(path).getBestCmap() for path in _faces())) - set(NOT_NEEDED))
    (FONTS / "letters.txt").write_text(_ranges(letters), "ascii")


def _faces() -> list[Path]:
    return sorted(path for path in FONTS.iterdir() if path.suffix in (".otf", ".ttf") and "Mono" not in path.name)


def _east_asian() -> set[int]:
    found: set[int] = set()
    for codec, leads in (("euc_jp", range(0xA1, 0xFF)), ("gb2312", range(0xA1, 0xFF)), ("euc_kr", range(0xA1, 0xFF)),
                         ("big5", range(0xA4, 0xC7))):  # fmt: skip
        for lead in leads:
            for trail in range(0x40, 0xFF):
                try:
                    text = bytes((lead, trail)).decode(codec)
                except UnicodeDecodeError:
                    continue
                found |= {ord(letter) for letter in text}
    return found | set(range(0x3000, 0x3100)) | set(range(0xFF01, 0xFF5F))


def _cut(font: TTFont, letters: set[int] | None, path: Path, shaped: bool = True) -> None:
    """A face with those letters, all where none are named; without hints, and without shaping where none is needed."""
    options = subset.Options()
    options.hinting = False
    options.desubroutinize = False
    options.name_IDs = [0, 1, 2, 3, 4, 5, 6, 13, 14]
    options.notdef_outline = True
    options.layout_features = ["*"] if shaped else []
    made = subset.Subsetter(options)
    made.populate(unicodes=(letters if letters is not None else set(font.getBestCmap())) - set(NOT_NEEDED))
    made.subset(font)
    subset.save_font(font, str(path), options)
    print(path.name, path.stat().st_size // 1000, "kB", len(font.getBestCmap()))


def _ranges(letters: list[int]) -> str:
    """Code points as ranges, one a line, in hexadecimal."""
    lines, first = [], letters[0]
    for before, after in zip(letters, [*letters[1:], -1], strict=True):
        if after != before + 1:
            lines.append(f"{first:X}-{before:X}" if first != before else f"{first:X}")
            first = after
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    main(Path(sys.argv[1]))
