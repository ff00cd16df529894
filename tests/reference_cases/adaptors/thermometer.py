"""The thermometer bench: fixed points, references on both sides, lines, what settles."""

from tests.reference_cases.cases import adaptor, agrees, given

from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.thermometer import ThermometerConditions, fit_thermometer
from aldea.core.physics.water import boiling_degc, ice_degc, pressure_at_pa

CONDITIONS = ThermometerConditions()


def point(reference, reading, medium="beside", approach="point", expanded=0.1):
    return Pair(
        reference=reference,
        reading=reading,
        approach=approach,
        temp_degc=reference,
        reference_expanded=expanded,
        medium=medium,
    )


@adaptor("boilp")
def water_boils_by_the_local_pressure(case):
    assert agrees(case, "boiling_point", boiling_degc(given(case, "pressure")))


@adaptor("boilalt")
def water_boils_by_the_height(case):
    pressure = pressure_at_pa(given(case, "altitude"))
    assert agrees(case, "pressure", pressure)
    assert agrees(case, "boiling_point", boiling_degc(pressure))


@adaptor("boilqnh")
def a_weather_report_is_reduced_to_the_height(case):
    local = pressure_at_pa(given(case, "altitude"), given(case, "qnh"))
    assert agrees(case, "station_pressure", local)
    assert agrees(case, "boiling_point", boiling_degc(local))


@adaptor("ice")
def ice_melts(case):
    pressure = given(case, "pressure")
    assert agrees(case, "pure_water", ice_degc(pressure, air_saturated=False))
    assert agrees(case, "air_saturated", ice_degc(pressure))


@adaptor("onepoint")
def one_point_gives_an_offset(case):
    reference = given(case, "reference")
    fit = fit_thermometer(
        [point(reference, reading) for reading in given(case, "readings")], CONDITIONS
    )
    assert agrees(case, "offset", fit.line.intercept)
    assert agrees(case, "corrected", fit.line.at(given(case, "later_raw_reading")))
    rows = {row.label: row.standard_uncertainty for row in fit.budget.rows}
    assert agrees(case, "sd", rows["One reading's scatter"])
    of_the_mean = next(u for label, u in rows.items() if label.startswith("The line through"))
    assert agrees(case, "u_mean", of_the_mean)
    assert any(label.startswith("Slope not shown") for label in rows)


@adaptor("twopoint")
def two_points_give_a_line(case):
    fit = fit_thermometer(
        [point(given(case, f"ref{i}"), given(case, f"raw{i}")) for i in (1, 2)], CONDITIONS
    )
    assert agrees(case, "gain", fit.line.slope)
    assert agrees(case, "offset", fit.line.intercept)
    assert agrees(case, "corrected", fit.line.at(given(case, "later_raw_reading")))
