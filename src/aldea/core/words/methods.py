"""How figures are computed: per kind the formulas, the figures that each gives, and the sources.

A figure on a page is found by the words that stand beside it; a law holds pages and formulas
together. The examples are worked through by the code that signs certificates.
"""

from dataclasses import dataclass

from aldea.core.words.method_examples import EXAMPLES, Example


@dataclass(frozen=True, slots=True, kw_only=True)
class Formula:
    """One formula; `figures` are the words beside the figures that it gives, or how they begin."""

    key: str
    text: str
    figures: tuple[str, ...]

    def gives(self, words: str) -> bool:
        """Whether a figure with these words beside it comes from here."""
        return any(words == names or words.startswith(f"{names} ") for names in self.figures)


@dataclass(frozen=True, slots=True, kw_only=True)
class Method:
    """One way of computing: what it is for, formulas, sources, and an example line by line."""

    key: str
    name: str
    what: str
    formulas: tuple[Formula, ...]
    sources: tuple[str, ...]
    example: Example


def _of(key: str, text: str, *figures: str) -> Formula:
    return Formula(key=key, text=text, figures=figures)


GUM = "JCGM 100:2008, Guide to the expression of uncertainty in measurement"
SCATTER = _of(
    "scatter", "s² = Σ (true − a − b · reading)² / (n − 2); scatter = the larger of repeats "
    "and misfit", "One reading's scatter", "Points beside the line",
)  # fmt: skip
LINE_DOUBT = _of("line-u", "u(line at x) = s · √(1/n + (x − x̄)² / Sxx)", "The line through")
EXPANDED = _of("expanded", "U = k · √(Σ (c · u)²), k for 95 % by ν_eff", "Stands at")
TEXTS: dict[str, tuple[str, str, tuple[Formula, ...], tuple[str, ...]]] = {
    "thermometer": (
        "A line through points",
        "From readings to true values by least squares, with what the line itself is not sure of.",
        (
            _of("line", "true = a + b · reading"),
            SCATTER,
            LINE_DOUBT,
            _of("spread", "u = half-width / √3 where it is even; stated with k = 2: U / 2; a step: "
                "step / √12", "References", "Resolution", "Drift until it is due", "Contact",
                "Position", "Warms itself, up to", "Slope not shown,"),
            EXPANDED,
        ),
        (f"{GUM}, H.3, G.4", "Draper and Smith, Applied Regression Analysis, 2.1 (lack of fit)"),
    ),
    "humidity": (
        "A humidity probe over salts",
        "What saturated salts give, and what a kelvin between jar and probe does to it.",
        (
            _of("line", "true = a + b · reading"),
            SCATTER,
            LINE_DOUBT,
            _of("kelvin", "e(t) = 6.112 · exp(17.62 t / (243.12 + t)) hPa; c = RH · d(ln e)/dt",
                "Salt to probe"),
            _of("spread", "u = half-width / √3 where it is even; stated with k = 2: U / 2; a step: "
                "step / √12", "Hysteresis, drier to wetter", "Drift until it is due",
                "Salt points", "Resolution"),
            EXPANDED,
        ),
        (f"{GUM}, 4.3, 5.1", "WMO-No. 8, annex 4.B", "Greenspan, J. Res. NBS 81A (1977) 89"),
    ),
    "difference": (
        "Two thermometers in one bath",
        "What is common to both leaves nothing in their difference; the mean’s own scatter does.",
        (
            _of("doubt", "u² = u1² + u2² − 2 r u1 u2 + s² / n",
                "Their difference, and what remains"),
            _of("common", "r = u0² / (u1 u2)"),
        ),
        (f"{GUM}, 5.2.2",),
    ),
    "tape": (
        "A leak tape’s false alarms",
        "How often noise alone crosses a margin, so many times in a row.",
        (
            _of("scatter", "σ² of a mean of N = σ² / N · (1 + 2 Σ (1 − k/N) r^k)",
                "One reading scatters"),
            _of("margin", "p = Q(margin / σ), σ of one reading", "For the acceptable rate"),
            _of("run", "at least one run of K in n: a Markov chain, again with "
                "P(X2 > m | X1 > m)", "False alarms by noise alone"),
            _of("states", "marks: percent of the baseline’s counts, or ohms through the divider; a "
                "state ends where the next begins", "States, without a hole"),
            _of("answer", "wet to alarm: K · interval + samples · time of one + 4.6 R C",
                "From wet to alarm"),
            _of("fed", "share = samples · time of one / interval", "Current flows"),
            _of("cell", "years = cells · writes a cell bears / (writes a day · 365.25)",
                "The baseline’s cell lasts"),
        ),
        ("Feller, An Introduction to Probability Theory 1, XIII.7",
         "Bayley and Hammersley, J. R. Stat. Soc. 8 (1946) 184"),
    ),
    "presence": (
        "Holds and shares",
        "An order statistic with a bound that no distribution is needed for; shares as bounds.",
        (
            _of("hold", "hold = x(k), k = ⌈n (1 − p)⌉", "In this recording alone",
                "Hold presence for", "Longest gap"),
            _of("bound", "bound = x(r), P(Bin(n, 1 − p) ≤ r − 1) ≥ confidence",
                "With the required confidence"),
            _of("share", "a share of k in n is at most the root of P(Bin(n, q) ≤ k) = 5 %",
                "Missed", "Counted, not there", "Tried on the second half", "Gates",
                "What a hold would have done while somebody was there"),
            _of("count", "in: the outer before the inner within the gap; out: the other way; "
                "inside = in − out, never under 0", "Counted with it", "Counted",
                "Inside at the end, from nobody", "Inside at the end", "Longest gaps tried"),
        ),
        ("Clopper and Pearson, Biometrika 26 (1934) 404",
         "David and Nagaraja, Order Statistics, 7.1"),
    ),
    "thermistor": (
        "A thermistor in a divider",
        "From counts to ohms to degrees.",
        (
            _of("beta", "R = R25 · exp(B (1/T − 1/298.15 K))", "B fitted", "The plan", "Points",
                "At 25 °C"),
            _of("three", "1/T = A + B ln R + C (ln R)³", "Steinhart–Hart"),
            _of("counts", "counts = FS · Vs/Vref · R / (R + Rf), the sensor at the lower side",
                "Reads there", "as a whole count", "Suspects, each alone; the least unexplained "
                "first"),
            _of("step", "K a count = T² / (B R) · ohms a count", "One count there"),
            _of("warm", "ΔT = (Vs / (R + Rf))² R · share fed / δ; it settles where T = Ta + ΔT(T)",
                "Warms itself by", "so it settles at"),
            _of("pin", "the pin: R with its input beside it; its leakage: I · R ‖ Rf volts more",
                "The pin’s load shifts it", "The leakage shifts it"),
        ),
        ("Steinhart and Hart, Deep-Sea Research 15 (1968) 497",),
    ),
    "light": (
        "A photoresistor",
        "Two lights give its law.",
        (
            _of("law", "R = R10 (E / 10 lx)^−γ", "At 10 lx", "At the threshold"),
            _of("gamma", "γ = ln(R1/R2) / ln(E2/E1)", "Gamma"),
            _of("resistor", "steepest where the fixed resistor equals R at the threshold",
                "Resistor for it", "The resistor, at a converter of 12 bits on the divider’s own "
                "supply"),
            _of("heat", "most heat = V² / (4 Rf), where R = Rf", "Most heat in it"),
            _of("lamp", "share = mean on − mean off; width = share + 3 σ each way",
                "The lamp adds", "Width demanded"),
        ),
        ("The power law of its data sheet",),
    ),
    "gas": (
        "A gas hint’s warm-up",
        "From when on no reading leaves the last fifth’s level by more.",
        (
            _of("settled", "settled: from then on within the band round the last fifth", "Warm-up"),
            _of("clean", "clean air = median of the settled readings", "Clean air"),
            _of("ratio", "alarm at ratio · clean air", "Ratios"),
            _of("drift", "drift = slope of the last fifth / clean air", "Drift at the end"),
        ),
        ("No standard: a hint for ventilation, no certified detector",),
    ),
    "filters": (
        "Filters",
        "What a filter takes from noise, and how late it is.",
        (
            _of("alpha", "α = 1 − exp(−Δt / τ)"),
            _of("late", "behind a ramp: (N − 1)/2 · Δt, or (1 − α)/α · Δt",
                "What each costs and what remains"),
        ),
        ("Oppenheim and Schafer, Discrete-Time Signal Processing, 2",),
    ),
    "air": (
        "Air and a cold surface",
        "The same water in colder air.",
        (
            _of("line", "true = a + b · reading", "Corrected"),
            _of("dew", "td = 243.12 ln(e/6.112) / (17.62 − ln(e/6.112)); its doubt U / (d RH/dt)",
                "Dew point", "Surface"),
            _of("water", "ρ = e / (461.52 J/(kg K) · T)", "Water in the air"),
            _of("colder", "RH at a surface = 100 e / es(t surface)", "80 % at a surface of",
                "Room under, against mould"),
        ),
        ("WMO-No. 8, annex 4.B", "ISO 13788 for fRsi and 80 % at the surface"),
    ),
    "contact": (
        "A contact’s bounce",
        "Edges that follow one another faster than a person can move count as one movement.",
        (
            _of("debounce", "debounce = 1.5 · the longest bounce, up to the next 5 ms",
                "Debounce"),
            _of("idle", "idle = from the last edge of a movement to the first of the next",
                "Minimum off time", "Movements, the first"),
        ),
        ("No standard: counted from the edges that were recorded",),
    ),
    "distance": (
        "A distance by echo",
        "Half the path of the sound, at the actual air temperature.",
        (
            _of("threshold", "threshold = (median empty + median occupied) / 2",
                "Threshold, midway"),
            _of("noise", "noise = the larger of both standard deviations", "Noise"),
            _of("air", "read = true · c(estimated) / c(air), c = 331.3 √(1 + t/273.15) m/s",
                "Left on the worse side", "What would be read over the span of air",
                "Damp summer air"),
            _of("ping", "between two pings: 2 · reach / c and 10 ms", "Not more often than every"),
            _of("tank", "level = empty − read; volume = area · level", "Water stands", "That is"),
        ),
        ("Cramer, J. Acoust. Soc. Am. 93 (1993) 2510, for moist air",),
    ),
    "multiplexer": (
        "A multiplexer’s wait",
        "A sample-and-hold fills through what it is switched to.",
        (
            _of("wait", "t = (Rs + Rsw) C ln 2^(bits + 1)", "By its resistances, at least"),
            _of("error", "error = first reading − settled reading", "Read at once, it errs by"),
            _of("crosstalk", "share = counts moved / counts that the neighbour moved", "Crosstalk",
                "Which channel changed"),
        ),
        ("First-order charging to half a count",),
    ),
    "photodiode": (
        "A photodiode",
        "A current in proportion to light.",
        (
            _of("current", "I = S · E · A + I0", "In the known light"),
            _of("dark", "I0 = V covered / Rf", "In the dark"),
            _of("count", "W/m² a count = full scale / 4095", "One count of 12 bits"),
        ),
        ("The responsivity in its data sheet is for one wavelength",),
    ),
    "tune": (
        "Thresholds as values",
        "Events of a replay, per day in which something was recorded.",
        (
            _of("days", "recorded days = time from each reading to the next, and no longer than "
                "“silent after”"),
            _of("starts", "starts a day = starts in it / recorded days", "Starts a day",
                "Its bands side by side, a day"),
            _of("hours", "hours a day = hours on in it / recorded days", "On, hours a day"),
            _of("past", "past the limit: past the on threshold and off, hours · 7 / recorded days",
                "Above limit while off, h/week"),
            _of("life", "life = rated cycles / (starts a day · 365.25)", "Relay life, years"),
            _of("energy", "kWh a day = entered W · hours a day / 1000", "Energy, kWh a day"),
        ),
        ("The relay’s data sheet for its rated cycles",),
    ),
}  # fmt: skip


def methods() -> tuple[Method, ...]:
    """Every kind, in the order in which they are told."""
    return tuple(
        Method(key=key, name=name, what=what, formulas=formulas, sources=sources,
               example=EXAMPLES[key]())
        for key, (name, what, formulas, sources) in TEXTS.items()
    )  # fmt: skip


def computed_at(kind: str, words: str) -> str:
    """The place of the formula of a figure, `kind-formula`; empty where nothing computes it."""
    if kind not in TEXTS:
        return ""
    place = next((f.key for f in TEXTS[kind][2] if f.gives(words)), "")
    return f"{kind}-{place}" if place else ""
