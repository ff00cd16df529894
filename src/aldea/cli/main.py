"""The command line: demo, serve, worker, replay, test, and what keeps the project whole."""

import sys
from pathlib import Path
from typing import Annotated

import typer

from aldea.core.base.errors import AldeaError

app = typer.Typer(
    help="Aldea: measure, decide and keep what switches what and when in a shared house.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    add_completion=False,
)
Port = Annotated[int, typer.Option(help="Port on loopback.", min=1, max=65535)]


@app.command()
def demo(port: Port = 8080) -> None:
    """Set everything up and serve the demo house."""
    from aldea.cli.serving import serve

    serve(port=port, with_demo=True)


@app.command()
def serve(port: Port = 8080) -> None:
    """Serve without loading the demo house."""
    from aldea.cli.serving import serve as serve_now

    serve_now(port=port, with_demo=False)


@app.command()
def worker() -> None:
    """Work the queue of long jobs in a process of its own."""
    from aldea.cli.serving import work_queue

    work_queue()


@app.command()
def account(
    name: Annotated[str, typer.Argument(help="What the person signs in as.")],
    password: Annotated[
        str, typer.Option(prompt=True, hide_input=True, confirmation_prompt=True)
    ] = "",
) -> None:
    """Make an account; the first one may begin the first house."""
    from aldea.cli.people import add_account

    add_account(name, password)
    print(f"aldea: {name} can sign in")


@app.command()
def member(
    house: Annotated[str, typer.Argument(help="The house as in its address: molino-alto.")],
    name: Annotated[str, typer.Argument(help="An account.")],
    role: Annotated[str, typer.Argument(help="builder, householder or viewer.")],
) -> None:
    """Give an account a role in a house."""
    from aldea.cli.people import let_in

    let_in(house, name, role)
    print(f"aldea: {name} is a {role} of {house}")


@app.command()
def replay(
    plan: Annotated[Path, typer.Argument(help="A plan file, aldea-plan/1.")],
    log: Annotated[Path, typer.Argument(help="A reading log, CSV.")],
    out: Annotated[Path | None, typer.Option(help="Where the events go; none: here.")] = None,
    probe: Annotated[str, typer.Option(help="Whose log it is, where several are read.")] = "",
    zone: Annotated[str, typer.Option(help="Zone of wall-clock times; the house's.")] = "",
    plain: Annotated[bool, typer.Option(help="Run the interpreter, not the compiler.")] = False,
    last: Annotated[str, typer.Option(help="End of the replay, ISO; the last reading.")] = "",
) -> None:
    """Replay a log through a plan and write its events, as the Tune bench does."""
    from aldea.cli.replaying import replay_files

    replay_files(plan, log, out=out, probe=probe, zone=zone, plain=plain, last=last)


@app.command()
def schema() -> None:
    """Print the JSON Schema of the plan document."""
    import json

    from aldea.core.plan.text import plan_schema

    print(json.dumps(plan_schema(), indent=2))


@app.command(context_settings={"allow_extra_args": True, "ignore_unknown_options": True})
def test(context: typer.Context) -> None:
    """Pass every check; arguments go to pytest, and then only it runs."""
    from aldea.cli.checking import run_checks

    raise typer.Exit(run_checks(context.args))


@app.command()
def shots() -> None:
    """Take the pictures in docs/screenshots again, from the demo data."""
    from aldea.cli.checking import take_shots

    raise typer.Exit(take_shots())


@app.command()
def timing() -> None:
    """Time what has a target, as ratios against the plain C twin in one run."""
    from aldea.cli.checking import run_benchmarks

    raise typer.Exit(run_benchmarks())


@app.command()
def css() -> None:
    """Build the style sheet from assets/."""
    from aldea.cli.checking import build_css

    raise typer.Exit(build_css())


@app.command()
def lock() -> None:
    """Pin what requirements/*.in ask for, by name, version and hash."""
    from aldea.cli.checking import pin

    raise typer.Exit(pin())


def main() -> None:
    """Run, and say a refusal as one sentence."""
    try:
        app()
    except AldeaError as exc:
        print(f"aldea: {exc.sentence}", file=sys.stderr)
        raise SystemExit(2) from exc


if __name__ == "__main__":
    main()
