"""Write docs/schemas anew from the models."""

from pathlib import Path

from true_compass.files.schemas import SCHEMAS

folder = Path(__file__).resolve().parent.parent / "docs" / "schemas"
folder.mkdir(exist_ok=True)
for name, text in SCHEMAS.items():
    (folder / name).write_text(text(), encoding="utf-8")
    print(folder / name)
