import sys

from retouch.cli.render import main

if __name__ == "__main__":
    sys.exit(main())
