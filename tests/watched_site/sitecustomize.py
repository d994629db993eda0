"""Python takes this in when it starts: processes that tests begin are watched as the tests themselves are."""

import os
import sys
from pathlib import Path

if os.environ.get("JAY_WATCHED_FILES"):
    sys.path.append(str(Path(__file__).parent.parent))
    import watched_files

    sys.modules["tests.watched_files"] = watched_files  # one for all who ask, a worker's tests among them
    watched_files.begin()
