"""The command line: demo, serve, worker, replay, test, and what keeps the project whole."""

import gc
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
# What is loaded at a start stays: looking through it over and over costs half a second.
LOOKED_THROUGH_AFTER = (200_000, 50, 100)
Port = Annotated[int, typer.Option(help="Port to listen on.", min=1, max=65535)]
Workers = Annotated[int, typer.Option(help="Server processes on one database.", min=1, max=16)]
Demo = Annotated[bool, typer.Option("--demo", help="In the demo house's database, not your own.")]
Count = Annotated[int, typer.Option(help="How many.", min=1)]
Seed = Annotated[int, typer.Option(help="The same seed sends the same requests.", min=0)]
Name = Annotated[str, typer.Argument(help="What the person signs in as.")]


@app.command()
def demo(port: Port = 8080, workers: Workers = 1) -> None:
    """Set everything up and serve the demo house, to this machine alone."""
    from aldea.cli.serving import Listening, serve

    serve(Listening(port=port, workers=workers), with_demo=True)


@app.command()
def serve(
    port: Port = 8080,
    host: Annotated[str, typer.Option(help="Address to listen on.")] = "127.0.0.1",
    proxy: Annotated[
        list[str] | None, typer.Option(help="Address of a proxy whose client address is trusted.")
    ] = None,
    tls_cert: Annotated[Path | None, typer.Option(help="Certificate chain, PEM.")] = None,
    tls_key: Annotated[Path | None, typer.Option(help="Its private key, PEM.")] = None,
    workers: Workers = 1,
) -> None:
    """Serve houses of your own: a database apart from the demo's, no sign-in but yours."""
    from aldea.cli.serving import Listening
    from aldea.cli.serving import serve as serve_now

    listening = Listening(
        host=host,
        port=port,
        proxies=tuple(proxy or ()),
        certificate=tls_cert,
        key=tls_key,
        workers=workers,
    )
    serve_now(listening, with_demo=False)


@app.command()
def worker(demo: Demo = False) -> None:
    """Work the queue of long jobs in a process of its own."""
    from aldea.cli.serving import work_queue

    work_queue(demo=demo)


@app.command()
def account(name: Name, demo: Demo = False) -> None:
    """Make an account; the first one may begin the first house. Asks for the password."""
    from aldea.cli.people import add_account, asked_password
    from aldea.store.settings import Settings

    add_account(Settings().place(demo=demo), name, asked_password())
    print(f"aldea: {name} can sign in")


@app.command()
def password(name: Name, demo: Demo = False) -> None:
    """Give an account another password; it is signed out everywhere."""
    from aldea.cli.people import asked_password, set_password
    from aldea.store.settings import Settings

    set_password(Settings().place(demo=demo), name, asked_password())
    print(f"aldea: {name} has another password, and is signed out everywhere")


@app.command()
def member(
    house: Annotated[str, typer.Argument(help="The house as in its address: molino-alto.")],
    name: Annotated[str, typer.Argument(help="An account.")],
    role: Annotated[str, typer.Argument(help="builder, householder, viewer, or out.")],
    demo: Demo = False,
) -> None:
    """Give an account a role in a house, or take it out of the house."""
    from aldea.cli.people import let_in, let_out
    from aldea.store.settings import Settings

    place = Settings().place(demo=demo)
    if role == "out":
        let_out(place, house, name)
        print(f"aldea: {name} is out of {house}, and signed out everywhere")
        return
    let_in(place, house, name, role)
    print(f"aldea: {name} is a {role} of {house}")


@app.command("remove-house")
def remove_house(
    house: Annotated[str, typer.Argument(help="The house as in its address: molino-alto.")],
    demo: Demo = False,
) -> None:
    """Remove a house for good, also what was published and signed. Asks for its name again."""
    from aldea.cli.people import remove_for_good
    from aldea.store.settings import Settings

    asks = f"All readings, revisions and certificates go. Type {house} to confirm: "
    print(asks, end="", flush=True)
    remove_for_good(Settings().place(demo=demo), house, sys.stdin.readline())
    print(f"aldea: {house} is removed")


@app.command()
def replay(
    plan: Annotated[Path, typer.Argument(help="A plan file, aldea-plan/2.")],
    logs: Annotated[list[str], typer.Argument(help="Reading logs, CSV: FILE, or PROBE=FILE.")],
    out: Annotated[
        Path | None, typer.Option(help="File for the events; without it they are printed.")
    ] = None,
    probe: Annotated[str, typer.Option(help="Whose log it is, where several are read.")] = "",
    zone: Annotated[str, typer.Option(help="Zone of wall-clock times; the house's.")] = "",
    column: Annotated[
        list[str] | None, typer.Option(help="Column to read, its number or heading; PROBE=N.")
    ] = None,
    unit: Annotated[
        list[str] | None, typer.Option(help="Unit of the values, such as degf; PROBE=degf.")
    ] = None,
    plain: Annotated[
        bool, typer.Option(help="Run the plain interpreter, not the compiled engine.")
    ] = False,
    last: Annotated[str, typer.Option(help="End of the replay, ISO; the last reading.")] = "",
    cut: Annotated[list[str] | None, typer.Option(help="A power cut, FROM/TO, ISO.")] = None,
    silent: Annotated[
        list[str] | None, typer.Option(help="A probe without readings, PROBE/FROM/TO, ISO.")
    ] = None,
    stuck: Annotated[
        list[str] | None, typer.Option(help="A probe held at its reading, PROBE/FROM/TO, ISO.")
    ] = None,
    beyond: Annotated[
        list[str] | None, typer.Option(help="A probe out of its range, PROBE/FROM/TO, ISO.")
    ] = None,
    contact: Annotated[
        list[str] | None,
        typer.Option(help="A contact that stands still, PROBE=open/FROM/TO or =closed/."),
    ] = None,
    clock_unknown: Annotated[
        list[str] | None, typer.Option(help="The clock is not known, FROM/TO, ISO.")
    ] = None,
    wall: Annotated[
        list[str] | None, typer.Option(help="A wall switch is thrown, LOAD/AT, ISO.")
    ] = None,
    boots: Annotated[bool, typer.Option(help="The start is a boot of the board.")] = False,
    lines: Annotated[Path | None, typer.Option(help="File for the relay lines, CSV.")] = None,
    retained: Annotated[
        Path | None, typer.Option(help="File for the retained memory, one JSON object a line.")
    ] = None,
) -> None:
    """Replay logs through a plan, with faults put in, and write what it did."""
    from aldea.cli.replaying import Asked, replay_files

    replay_files(
        Asked(
            plan=plan,
            logs=tuple(logs),
            out=out,
            probe=probe,
            zone=zone,
            columns=tuple(column or ()),
            units=tuple(unit or ()),
            plain=plain,
            last=last,
            cuts=tuple(cut or ()),
            silences=tuple(silent or ()),
            stuck=tuple(stuck or ()),
            beyond=tuple(beyond or ()),
            contacts=tuple(contact or ()),
            clocks=tuple(clock_unknown or ()),
            walls=tuple(wall or ()),
            boots=boots,
            lines=lines,
            retained=retained,
        )
    )


@app.command()
def calendar(
    plan: Annotated[Path, typer.Argument(help="A plan file, aldea-plan/2.")],
    schedule: Annotated[str, typer.Argument(help="The id of a schedule in it.")],
    first: Annotated[str, typer.Option(help="The first day, such as 2026-03-01.")],
    last: Annotated[str, typer.Option(help="The last day that is taken from a calendar.")] = "",
    take: Annotated[
        Path | None, typer.Option(help="A calendar whose events become the schedule's dates.")
    ] = None,
) -> None:
    """Print a schedule as iCalendar; with --take the plan with a calendar's events in it."""
    from aldea.cli.replaying import calendar_file

    calendar_file(plan, schedule, first=first, last=last, take=take)


@app.command()
def check(plan: Annotated[Path, typer.Argument(help="A plan file, aldea-plan/2.")]) -> None:
    """List what is wrong with a plan: what does not fit, then the findings on its wiring."""
    from aldea.cli.replaying import check_file

    raise typer.Exit(check_file(plan))


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
def requests(count: Count = 20_000, seed: Seed = 0) -> None:
    """Send odd requests to a demo house of their own; prints each that ends in a mistake."""
    from aldea.cli.checking import send_odd_requests

    raise typer.Exit(send_odd_requests(seed=seed, count=count))


@app.command()
def mutants(
    count: Annotated[int, typer.Option(help="How many of each part.", min=1)] = 12,
    seed: Seed = 0,
    only: Annotated[str, typer.Option(help="engine, store or access; all.")] = "",
) -> None:
    """Break lines of engine, store and access one by one; prints what the tests do not see."""
    from aldea.cli.checking import break_lines

    raise typer.Exit(break_lines(count=count, seed=seed, only=only))


@app.command()
def shots() -> None:
    """Take the pictures in docs/screenshots again, from the demo data."""
    from aldea.cli.checking import take_shots

    raise typer.Exit(take_shots())


@app.command()
def timing(
    soak: Annotated[
        float | None,
        typer.Option(help="Instead, look at all pages for so many minutes: does memory grow?"),
    ] = None,
) -> None:
    """Time what has a target, each figure with its target, in one run."""
    from aldea.cli.checking import run_benchmarks

    raise typer.Exit(run_benchmarks(soak))


@app.command()
def engine(
    write: Annotated[
        bool, typer.Option("--write", help="Write scan.c again from its source first.")
    ] = False,
) -> None:
    """Compile the engine where that is still to be done, and say where it lies."""
    from aldea.cli.packages import ensure_compiler
    from aldea.native.building import SCAN_C, built_engine
    from aldea.store.settings import Settings

    if write:
        from aldea.native.writer.document import scan_in_c

        SCAN_C.write_text(scan_in_c())
    ensure_compiler()
    print(f"aldea: the engine is {built_engine(Settings().engine)}")


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
    gc.set_threshold(*LOOKED_THROUGH_AFTER)
    try:
        app()
    except AldeaError as exc:
        print(f"aldea: {exc.sentence}", file=sys.stderr)
        raise SystemExit(2) from exc


if __name__ == "__main__":
    main()
