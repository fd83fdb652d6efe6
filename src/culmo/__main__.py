"""`culmo` and `python -m culmo`."""

import sys

from culmo.cli.main import main

if __name__ == "__main__":
    sys.exit(main())
