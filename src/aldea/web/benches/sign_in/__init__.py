"""Signing in and out, the password and the sessions of an account."""

from pathlib import Path

from aldea.web.benches.sign_in import routes
from aldea.web.shell.bench import Bench

BENCH = Bench(
    key="sign_in",
    folder=Path(__file__).parent,
    routers=(routes.router,),
    views=("//sign-in", "//account"),
)
