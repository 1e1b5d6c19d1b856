"""Verdicts of vibratos, against their own evenness, the line they come back to, and what the drill asks for."""

from __future__ import annotations

from dataclasses import dataclass

from fortimetra.hear.notes import HeardNote
from fortimetra.judge.verdict import corridor_verdict, together, verdict
from fortimetra.measure.vibrato import VibratoMeasured, path_of
from fortimetra.model.analysis import VibratoFound
from fortimetra.model.drill import AskedNote
from fortimetra.model.hand import VibratoAsked
from fortimetra.units import rounded


@dataclass(frozen=True)
class RatesAsked:
    """The rates a vibrato is asked for by the click: none, one, or a path of them over the note (its slot from the
    onset on, in s).
    """

    hz: tuple[float, ...] = ()
    note_s: tuple[float, float] = (0.0, 0.0)

    @staticmethod
    def of(wanted: VibratoAsked, asked: AskedNote, heard: HeardNote, seconds_per_beat: float) -> RatesAsked:
        """As asked, at the tempo that was played."""
        cycles = wanted.cycles_per_beat
        rates = cycles if isinstance(cycles, tuple) else () if cycles is None else (cycles,)
        end_s = heard.onset_s + asked.event.length * seconds_per_beat
        return RatesAsked(tuple(c / seconds_per_beat for c in rates), (heard.onset_s, end_s))


def judge_vibrato(
    found: VibratoMeasured, wanted: VibratoAsked, tolerances: dict[str, float], rates: RatesAsked | None = None
) -> tuple[VibratoFound, list[str]]:
    """Evenness and return are judged; rate and width only against what the drill asks for.

    rates: by the click. One is held all through; of several each has its share of the note, and evenness is not asked.
    A share too slow to hold a whole cycle says nothing, as long as two others do.
    """
    share = tolerances["vibrato_rate_cv"]
    rates_hz = rates.hz if rates is not None else ()
    path = path_of(found, len(rates_hz), rates.note_s) if rates is not None and len(rates_hz) > 1 else ()
    told = sum(read is not None for read, _ in path)
    verdicts = [
        *(() if path else (verdict(found.rate_cv, found.u_rate_cv, share),)),
        verdict(found.extent_cv, found.u_extent_cv, tolerances["vibrato_extent_cv"]),
        verdict(found.return_error_cents, found.u_return, tolerances["vibrato_return_cents"]),
    ]
    if len(rates_hz) == 1:
        verdicts.append(
            corridor_verdict(found.rate_hz, found.u_rate, rates_hz[0] * (1 - share), rates_hz[0] * (1 + share))
        )
    for rate, (read, u) in zip(rates_hz, path, strict=False):
        if read is None and told > 1:
            continue
        verdicts.append(corridor_verdict(read, u, rate * (1 - share), rate * (1 + share)))
    if wanted.rate_hz is not None:
        verdicts.append(corridor_verdict(found.rate_hz, found.u_rate, *wanted.rate_hz))
    if wanted.extent_cents is not None:
        verdicts.append(corridor_verdict(found.extent_cents, found.u_extent, *wanted.extent_cents))
    return VibratoFound(
        rate_hz=rounded(found.rate_hz, 3),
        rate_cv=rounded(found.rate_cv, 3),
        extent_cents=rounded(found.extent_cents, 2),
        extent_cv=rounded(found.extent_cv, 3),
        return_error_cents=rounded(found.return_error_cents, 2),
        return_sd_cents=rounded(found.return_sd_cents, 2),
        cycles=found.cycles,
        shape=found.shape,
        fade_db_per_s=rounded(found.fade_db_per_s, 2),
        region=found.region,
        u_rate=rounded(found.u_rate, 3),
        u_extent=rounded(found.u_extent, 2),
        u_return=rounded(found.u_return, 2),
        u_rate_cv=rounded(found.u_rate_cv, 3),
        u_extent_cv=rounded(found.u_extent_cv, 3),
        path_hz=tuple(rounded(read, 3) for read, _ in path),
        verdict="unclear" if found.rate_hz is None else together(verdicts),
    ), list(found.reasons)
