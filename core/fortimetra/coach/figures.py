"""Which forms hold the figure for a fault: where a teacher looks after a take has named its likely cause.

Common practice, no source: the fault alone, slower and smaller, then the same inside a line.
"""

from __future__ import annotations

_BENDS = ("fretted_then_bend", "bend_ladder", "bends_in_turn")
_HELD = ("prebend", "bend_held")
_VIBRATO = ("vibrato_click", "vibrato_fretted", "vibrato_widths")
_SLURS = ("one_finger", "finger_pairs", "slur_groups")
_CHANGES = ("picking_scale", "picking_triads", "alternate_picking")
_QUIET = ("long_note_noise", "low_string_muting")
_STOPS = ("stop_and_rest", "staccato")

FIGURES: dict[str, tuple[str, ...]] = {
    "bends_change_along": ("bend_ladder",), "bend_flat": _BENDS, "bend_sharp": _BENDS, "hold_sinks": ("bend_held", *_BENDS),
    "hold_wavers": ("bend_held", *_BENDS), "prebend_flat": _HELD, "prebend_sharp": _HELD, "landing_off": _HELD,
    "unison_under": ("unison_bend", "bend_checked"), "unison_past": ("unison_bend", "bend_checked"),
    "curl_wide": ("curl", "curl_rhythm"), "curl_narrow": ("curl", "curl_rhythm"), "bend_breaks_rhythm": ("bend_map", "bend_in_scale"),
    "vibrato_never_back": _VIBRATO, "vibrato_tops_flat": ("vibrato_bent", "vibrato_box"), "vibrato_under_line": _VIBRATO,
    "vibrato_over_line": _VIBRATO, "vibrato_uneven_width": ("vibrato_widths", *_VIBRATO[:2]), "vibrato_uneven_rate": _VIBRATO,
    "vibrato_fades": ("vibrato_bent", "vibrato_box"), "slide_behind": ("bottleneck", "bottleneck_changes", "bottleneck_melody"),
    "slide_before": ("bottleneck", "bottleneck_changes", "bottleneck_melody"), "late_after_string_change": _CHANGES, "change_against_stroke": _CHANGES, "weak_finger": _SLURS,
    "double_hits": _CHANGES, "rushed_middle": ("sweep",), "rushes_inside": ("alternate_picking", "slur_groups"),
    "drags_inside": ("alternate_picking", "slur_groups"), "rushes": ("fast_slow", "picking_string"), "drags": ("fast_slow", "picking_string"),
    "slurs_drop": ("slur_vs_pick", "slur_scale"), "hammer_weak": _SLURS, "pull_weak": _SLURS, "tap_weak": ("tapping", "tapped_chord"),
    "tap_loud": ("tapping", "tapped_chord"), "tap_long": ("tapping",), "accents_missing": ("alternate_picking", "picking_scale"),
    "accents_creep": ("legato_cycle", "slur_groups"), "volume_uneven": ("picking_string", "picking_chromatic"),
    "bleeds": ("sweep", "picking_triads"), "notes_short": ("picking_chromatic", "picking_string"),
    "behind_slide_rings": ("bottleneck_melody", "bottleneck"), "middle_rings": ("muted_double_stops", "shapes_pairs"),
    "outer_rings": ("muted_double_stops", "mute_check"), "high_strings_ring": ("mute_check",), "neighbour_slurred": _SLURS,
    "neighbours_build_up": _QUIET, "low_strings_ring": ("low_string_muting", "mute_check"), "above_rings": ("mute_check", "long_note_noise"),
    "still_fretted": _STOPS, "fretting_hand_first": _STOPS, "stop_late": _STOPS, "chord_unequal": ("muted_double_stops", "shapes_pairs"),
    "scrapes": ("slides", "slide_into"),
    "bends_slip": _BENDS, "bends_die": ("bend_held", *_BENDS), "vibrato_dips_uneven": ("vibrato_bent", "vibrato_box"),
    "vibrato_dips_deep": ("vibrato_bent", "vibrato_box"), "vibrato_dips_small": ("vibrato_bent", "vibrato_box"),
    "vibrato_wide": ("vibrato_widths", *_VIBRATO[:2]), "vibrato_narrow": ("vibrato_widths", *_VIBRATO[:2]),
    "other_division": ("picking_string", "legato_cycle"), "eighths_swing": ("picking_string",), "late_after_shift": ("picking_positions", "shapes_pairs"),
    "slurs_hurry": ("slur_groups", "slur_scale"), "slurs_drag": ("slur_groups", "slur_scale"), "pull_hooks": _SLURS, "hammer_loud": _SLURS,
    "over_muted": ("low_string_muting", "mute_check"), "hands_apart": ("picking_chromatic", "alternate_picking"), "motion_changes": ("fast_slow", "fastest_run"),
    "strings_pressed": ("mute_check", "muted_double_stops"), "middle_under_slide": ("bottleneck", "bottleneck_changes"),
    "shape_not_held": ("muted_double_stops", "shapes_pairs"), "joint_collapses": _SLURS,
}  # fmt: skip
