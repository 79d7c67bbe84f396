"""python -m tools.run tests.builders.whole_log SLUG: every result of a programme, as CSV."""

import sys

from kessa.pages.log.csv_file import pieces
from kessa.platform.models import Programme
from kessa.results.models import Result

if __name__ == "__main__":
    programme = Programme.objects.get(slug=sys.argv[1])
    for piece in pieces(Result.objects.of(programme)):
        sys.stdout.buffer.write(piece)
