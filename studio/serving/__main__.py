"""``python -m studio.serving``: the studio on an address of this machine."""

from __future__ import annotations

import argparse
import os
from pathlib import Path


def main() -> None:
    """Serve the studio until the process is told to end."""
    parser = argparse.ArgumentParser(prog="serve", description="Serve the studio.")
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=int, default=8000)
    options = parser.parse_args()
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
    # Loading the studio takes longer than telling the options.
    from django.conf import settings

    from retouch.compiled import get_ready
    from retouch.processors import begin
    from studio.errors import Problem
    from studio.portraits.services.backups import in_use
    from studio.serving.server import serve

    try:
        with in_use(Path(settings.DATA_DIR)):
            from studio.wsgi import application

            # While nobody asks yet: the first view would wait for it.
            begin(get_ready)
            serve(application, options.host, options.port, settings.PROXY)
    except Problem as problem:
        parser.exit(1, f"serve: {problem.body['message']}\n")


if __name__ == "__main__":
    main()
