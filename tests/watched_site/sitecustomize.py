"""Python takes this in when it starts: processes that tests begin are watched as the tests themselves are."""

import os
import sys
from pathlib import Path

if os.environ.get("JAY_WATCHED_FILES"):
    sys.path.append(str(Path(__file__).parent.parent))
    import watched_files

    sys.modules["tests.watched_files"] = watched_files  # one for all who ask, a worker's tests among them
    watched_files.begin()

for _folder in sys.path:  # Python takes in the first one of that name; another that was meant comes after it
    _other = Path(_folder or ".") / "sitecustomize.py"
    if _other.is_file() and not _other.samefile(__file__):
        exec(compile(_other.read_text(encoding="utf-8"), str(_other), "exec"))
        break
