"""Write docs/engine.schema.json anew from the model."""

from pathlib import Path

from true_compass.files.model_v3 import schema_text

target = Path(__file__).resolve().parent.parent / "docs" / "engine.schema.json"
target.write_text(schema_text(), encoding="utf-8")
print(target)
