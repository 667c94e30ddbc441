"""Builds what ships in src/widebend/web/static/built (styles, fonts, htmx) and the fonts of printed sheets.

--check proves that the shipped files equal a rebuild.
"""

import filecmp
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from fontTools import subset

ROOT = Path(__file__).resolve().parents[1]
BUILT = ROOT / "src/widebend/web/static/built"
PRINT_FONTS = ROOT / "src/widebend/formats/papers/fonts"
PRINTED = ("DejaVuSansCondensed.ttf", "DejaVuSansCondensed-Bold.ttf")  # names in most of the world's alphabets
# arrows, marks and letters that the fonts of the pages lack; a test finds any other
SIGNS = "ρ←↑→↓≥━┈╌▬▲△▶▸▼◀◂◆○☐☑✓✕⬉⬊⬖"
FONTS = (
    ("barlow", "barlow-latin-400-normal.woff2"),
    ("barlow", "barlow-latin-600-normal.woff2"),
    ("barlow-condensed", "barlow-condensed-latin-500-normal.woff2"),
    ("barlow-condensed", "barlow-condensed-latin-600-normal.woff2"),
)


def build(into: Path) -> None:
    """Everything a browser is given that is not written by hand."""
    into.mkdir(parents=True, exist_ok=True)
    cli = ROOT / "node_modules/.bin/tailwindcss"
    command = [cli, "-i", ROOT / "assets/app.css", "-o", into / "app.css", "--minify"]
    subprocess.run([str(c) for c in command], check=True, cwd=ROOT, stderr=subprocess.DEVNULL)
    shutil.copyfile(ROOT / "node_modules/htmx.org/dist/htmx.min.js", into / "htmx.min.js")
    for family, name in FONTS:
        shutil.copyfile(ROOT / f"node_modules/@fontsource/{family}/files/{name}", into / name)
        shutil.copyfile(ROOT / f"node_modules/@fontsource/{family}/LICENSE", into / f"{family}-LICENSE.txt")
    build_signs(into)


def build_signs(into: Path) -> None:
    """A font of the signs only, cut out of the one that sheets are printed with."""
    options = subset.Options(layout_features=[], name_IDs=[0, 1, 2, 13], hinting=False)
    options.drop_tables += ["FFTM"]
    font = subset.load_font(str(ROOT / "node_modules/dejavu-fonts-ttf/ttf" / PRINTED[0]), options)
    cut = subset.Subsetter(options)
    cut.populate(text=SIGNS)
    cut.subset(font)
    subset.save_font(font, str(into / "signs.ttf"), options)
    shutil.copyfile(ROOT / "node_modules/dejavu-fonts-ttf/LICENSE", into / "signs-LICENSE.txt")


def build_print_fonts(into: Path) -> None:
    """What sheets are printed with: whole fonts, of which a sheet takes the letters it needs."""
    into.mkdir(parents=True, exist_ok=True)
    source = ROOT / "node_modules/dejavu-fonts-ttf"
    for name in PRINTED:
        shutil.copyfile(source / "ttf" / name, into / name)
    shutil.copyfile(source / "LICENSE", into / "LICENSE.txt")


def differing(make: Callable[[Path], None], shipped: Path) -> set[str]:
    """Names of what a rebuild would make otherwise than it ships."""
    with tempfile.TemporaryDirectory() as folder:
        make(Path(folder))
        names = {p.name for p in Path(folder).iterdir()}
        _, differ, missing = filecmp.cmpfiles(folder, shipped, sorted(names), shallow=False)
    return {*differ, *missing, *({p.name for p in shipped.iterdir()} - names)}


def main() -> int:
    if "--check" not in sys.argv:
        build(BUILT)
        build_print_fonts(PRINT_FONTS)
        print(f"built {len(list(BUILT.iterdir())) + len(list(PRINT_FONTS.iterdir()))} files")
        return 0
    wrong = sorted(differing(build, BUILT) | differing(build_print_fonts, PRINT_FONTS))
    print(
        f"the shipped assets differ from a rebuild: {', '.join(wrong)}" if wrong else "shipped assets equal a rebuild"
    )
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
