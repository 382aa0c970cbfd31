import sys

from retouch.cli import main

if __name__ == "__main__":
    sys.exit(main())
