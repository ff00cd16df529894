"""What each word means: the glossary, as a page that every list of keys leads to."""

from pathlib import Path

from aldea.web.benches.words import routes
from aldea.web.shell.bench import Bench

BENCH = Bench(
    key="words",
    folder=Path(__file__).parent,
    routers=(routes.router,),
    views=("/words",),
)
