//! A process setting's form.

use wembrit_core::workshop::ProcessSetting;
use wembrit_core::workshop::print_time::{LayerTiming, MachineKind};

use super::{Faults, Field, Input, Reader, mark_assumed, plain, still_assumed};

/// The fields that matter on this kind of machine.
pub(crate) fn fields(kind: MachineKind, setting: &ProcessSetting) -> Vec<Field> {
    let t = &setting.timing;
    let mut fields = vec![
        Field::number("exposure_s", "Exposure of a layer", "s", plain(t.exposure_s))
            .hint("Features missing: too short. Gaps grown shut: too long."),
        Field::number("bottom_layers", "Bottom layers", "layers", t.bottom_layers),
        Field::number("bottom_exposure_s", "Exposure of a bottom layer", "s", plain(t.bottom_exposure_s))
            .hint("Too short: the print falls off the plate. Too long: it spreads and is hard to take off."),
        Field::number("transition_layers", "Transition layers", "layers", t.transition_layers)
            .hint("Over so many the exposure goes down to that of the others.")
            .folded(t.transition_layers == 0),
    ];
    if kind == MachineKind::TiltingVat {
        fields.push(Field::number(
            "tilt_cycle_s",
            "Tilting cycle of a layer",
            "s",
            plain(t.tilt_cycle_s),
        ));
    } else {
        fields.push(Field::number("lift_mm", "Lift", "mm", plain(t.lift_mm)));
        fields.push(Field::number(
            "lift_mm_per_min",
            "Lift speed",
            "mm/min",
            plain(t.lift_mm_per_min),
        ));
        fields.extend([
            Field::number(
                "second_lift_mm",
                "Second stage of the lift",
                "mm",
                plain(t.second_lift_mm),
            )
            .hint("0 where the lift has one.")
            .folded(t.second_lift_mm == 0.0),
            Field::number(
                "second_lift_mm_per_min",
                "Speed of that stage",
                "mm/min",
                plain(t.second_lift_mm_per_min),
            )
            .folded(t.second_lift_mm == 0.0),
            Field::number(
                "retract_mm_per_min",
                "Way back",
                "mm/min",
                plain(t.retract_mm_per_min),
            ),
            Field::number(
                "last_retract_mm",
                "Last of the way back",
                "mm",
                plain(t.last_retract_mm),
            )
            .hint("0 where all of it has one speed.")
            .folded(t.last_retract_mm == 0.0),
            Field::number(
                "last_retract_mm_per_min",
                "Speed of the last",
                "mm/min",
                plain(t.last_retract_mm_per_min),
            )
            .folded(t.last_retract_mm == 0.0),
            Field::number(
                "bottom_lift_mm",
                "Lift of a bottom layer",
                "mm",
                plain(t.bottom_lift_mm),
            )
            .hint("0 where it is that of the others.")
            .folded(t.bottom_lift_mm == 0.0),
            Field::number(
                "bottom_lift_mm_per_min",
                "Speed of that lift",
                "mm/min",
                plain(t.bottom_lift_mm_per_min),
            )
            .folded(t.bottom_lift_mm == 0.0),
        ]);
    }
    fields.push(
        Field::number(
            "light_off_s",
            "Dark before the light",
            "s",
            plain(t.light_off_s),
        )
        .hint("Resin comes to rest after a move.")
        .folded(t.light_off_s == 0.0),
    );
    fields.push(Field::number(
        "rest_s",
        "Rests of a layer together",
        "s",
        plain(t.rest_s),
    ));
    if kind == MachineKind::Beam {
        fields.push(Field::number(
            "beam_mm2_per_s",
            "Area drawn",
            "mm²/s",
            plain(t.beam_mm2_per_s),
        ));
        fields.push(Field::number(
            "beam_mm_per_s",
            "Outline drawn",
            "mm/s",
            plain(t.beam_mm_per_s),
        ));
    }
    mark_assumed(fields, &setting.assumed)
}

/// Figures of other kinds of machine stay as they are in `known`.
pub(crate) fn read(
    input: &Input,
    kind: MachineKind,
    known: &LayerTiming,
) -> Result<LayerTiming, Faults> {
    let mut r = Reader::new(input);
    let mut timing = LayerTiming {
        exposure_s: r.number("exposure_s", 0.05, 600.0),
        bottom_layers: r.whole("bottom_layers", 0, 200),
        bottom_exposure_s: r.number("bottom_exposure_s", 0.05, 1200.0),
        rest_s: r.number("rest_s", 0.0, 600.0),
        light_off_s: r.number("light_off_s", 0.0, 600.0),
        transition_layers: r.whole("transition_layers", 0, 200),
        ..known.clone()
    };
    if kind == MachineKind::TiltingVat {
        timing.tilt_cycle_s = r.number("tilt_cycle_s", 0.1, 600.0);
    } else {
        timing.lift_mm = r.number("lift_mm", 0.0, 50.0);
        timing.lift_mm_per_min = r.number("lift_mm_per_min", 1.0, 5000.0);
        timing.second_lift_mm = r.number("second_lift_mm", 0.0, 50.0);
        timing.second_lift_mm_per_min = r.number("second_lift_mm_per_min", 1.0, 5000.0);
        timing.retract_mm_per_min = r.number("retract_mm_per_min", 1.0, 5000.0);
        timing.last_retract_mm = r.number("last_retract_mm", 0.0, 50.0);
        timing.last_retract_mm_per_min = r.number("last_retract_mm_per_min", 1.0, 5000.0);
        timing.bottom_lift_mm = r.number("bottom_lift_mm", 0.0, 50.0);
        timing.bottom_lift_mm_per_min = r.number("bottom_lift_mm_per_min", 1.0, 5000.0);
        if timing.last_retract_mm > timing.lift_mm + timing.second_lift_mm {
            r.refuse("last_retract_mm", "is more than the whole way back");
        }
    }
    if kind == MachineKind::Beam {
        timing.beam_mm2_per_s = r.number("beam_mm2_per_s", 0.1, 100_000.0);
        timing.beam_mm_per_s = r.number("beam_mm_per_s", 0.1, 100_000.0);
    }
    r.done(timing)
}

/// What stays assumed after saving; figures this kind of machine does not show stay as they were.
pub(crate) fn still_assumed_timing(shown: &[Field], input: &Input, before: &str) -> String {
    let mut names = still_assumed(shown, input);
    for name in before
        .split(',')
        .filter(|n| !shown.iter().any(|f| f.name == *n))
    {
        if !names.is_empty() {
            names.push(',');
        }
        names.push_str(name);
    }
    names
}
