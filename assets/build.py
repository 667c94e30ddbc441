"""Builds what ships in src/widebend/web/static/built: styles, fonts, htmx.

--check proves that the shipped files equal a rebuild.
"""

import filecmp
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BUILT = ROOT / "src/widebend/web/static/built"
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


def main() -> int:
    if "--check" not in sys.argv:
        build(BUILT)
        print(f"built {len(list(BUILT.iterdir()))} files")
        return 0
    with tempfile.TemporaryDirectory() as folder:
        build(Path(folder))
        names = sorted(p.name for p in Path(folder).iterdir())
        shipped = sorted(p.name for p in BUILT.iterdir())
        _, differ, missing = filecmp.cmpfiles(folder, BUILT, names, shallow=False)
    wrong = sorted({*differ, *missing, *(set(shipped) - set(names))})
    print(
        f"the shipped assets differ from a rebuild: {', '.join(wrong)}" if wrong else "shipped assets equal a rebuild"
    )
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
