//! Where a process setting begins: what machines of a kind usually do.

use crate::units::LayerHeight;
use crate::words::words;
use crate::workshop::print_time::{LayerTiming, MachineKind, TIMING_FIELDS};
use crate::workshop::setting::{ProcessSetting, is_confirmed, without};

words! {
    /// A way in which machines of a kind usually work. Typical values; common practice, no source.
    Preset, "way to work" {
        /// Lift, way back, a moment of rest.
        PlainLift = "one lift",
        /// Up with care, then fast; back fast, then with care; dark before the light.
        TwoStages = "two stages",
        /// A large plate: longer, slower ways and longer rests, the resin has farther to flow.
        LargePlate = "large plate",
        /// The vat tilts: a short fixed cycle.
        Tilting = "tilting vat",
        /// A beam draws.
        Beam = "beam",
    }
}

impl Preset {
    /// Those for a kind of machine, the first one first.
    #[must_use]
    pub const fn of(kind: MachineKind) -> &'static [Self] {
        match kind {
            MachineKind::Screen => &[Self::PlainLift, Self::TwoStages, Self::LargePlate],
            MachineKind::TiltingVat => &[Self::Tilting],
            MachineKind::Beam => &[Self::Beam],
        }
    }

    /// What it suits.
    #[must_use]
    pub const fn good_for(self) -> &'static str {
        match self {
            Self::PlainLift => "small and middling screens with a fresh film",
            Self::TwoStages => {
                "machines that let both ways have two speeds: less pull, hardly more time"
            }
            Self::LargePlate => "plates wider than about 200 mm: the resin needs time to flow back",
            Self::Tilting => "machines that tilt their vat: little pull, quick layers",
            Self::Beam => "machines whose beam draws the layer: full plates take longer",
        }
    }

    /// Its figures in place of those of a setting, and the names of what is assumed then: an exposure that
    /// somebody has tested stays, and so do the figures that the way says nothing of.
    #[must_use]
    pub fn in_place_of(self, known: &ProcessSetting) -> (LayerTiming, String) {
        let mut timing = self.timing(known.layer);
        let mut assumed = TIMING_FIELDS.to_owned();
        for (name, kept, of) in [
            (
                "exposure_s",
                &mut timing.exposure_s,
                known.timing.exposure_s,
            ),
            (
                "bottom_exposure_s",
                &mut timing.bottom_exposure_s,
                known.timing.bottom_exposure_s,
            ),
        ] {
            if is_confirmed(name, &known.assumed) {
                *kept = of;
                assumed = without(name, &assumed);
            }
        }
        (timing, assumed)
    }

    /// Its figures at a layer height.
    #[must_use]
    pub fn timing(self, layer: LayerHeight) -> LayerTiming {
        let plain = LayerTiming::assumed(layer);
        match self {
            Self::PlainLift => plain,
            Self::TwoStages => LayerTiming {
                lift_mm: 2.0,
                lift_mm_per_min: 60.0,
                second_lift_mm: 5.0,
                second_lift_mm_per_min: 180.0,
                retract_mm_per_min: 210.0,
                last_retract_mm: 2.0,
                last_retract_mm_per_min: 90.0,
                rest_s: 0.5,
                light_off_s: 0.5,
                transition_layers: 6,
                bottom_layers: 5,
                ..plain
            },
            Self::LargePlate => LayerTiming {
                exposure_s: plain.exposure_s + 0.5,
                bottom_exposure_s: 35.0,
                lift_mm: 3.0,
                lift_mm_per_min: 50.0,
                second_lift_mm: 6.0,
                second_lift_mm_per_min: 150.0,
                retract_mm_per_min: 150.0,
                rest_s: 1.0,
                light_off_s: 1.5,
                transition_layers: 8,
                ..plain
            },
            Self::Tilting => LayerTiming {
                bottom_layers: 5,
                bottom_exposure_s: 25.0,
                transition_layers: 6,
                tilt_cycle_s: 2.9,
                rest_s: 0.5,
                ..plain
            },
            Self::Beam => LayerTiming {
                exposure_s: 1.0,
                bottom_layers: 5,
                bottom_exposure_s: 5.0,
                lift_mm: 5.0,
                rest_s: 2.0,
                ..plain
            },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ids::{PrinterId, ProcessSettingId, ResinId, SettingVersionId};
    use crate::workshop::print_time::{Drawn, plate_seconds};
    use rstest::rstest;

    /// Common practice, no source: 5,000 layers take 7 h 30 min on a machine whose vat tilts, 9 to 14 h
    /// on a lifting one; a large plate is slower than a small one.
    /// What was tested stays, all else is assumed.
    #[test]
    fn a_tested_exposure_stays() {
        let layer = LayerHeight::from_mm(0.05).unwrap();
        let known = ProcessSetting {
            id: ProcessSettingId(1),
            printer: PrinterId(1),
            resin: ResinId(1),
            layer,
            version: SettingVersionId(1),
            number: 1,
            timing: LayerTiming {
                exposure_s: 1.69,
                bottom_exposure_s: 44.0,
                ..LayerTiming::assumed(layer)
            },
            assumed: without("exposure_s", TIMING_FIELDS),
        };
        let (timing, assumed) = Preset::TwoStages.in_place_of(&known);
        let way = Preset::TwoStages.timing(layer);
        assert_eq!(timing.exposure_s, 1.69);
        assert_eq!(timing.bottom_exposure_s, way.bottom_exposure_s);
        assert_eq!(timing.second_lift_mm, way.second_lift_mm);
        assert!(is_confirmed("exposure_s", &assumed));
        assert!(!is_confirmed("lift_mm", &assumed) && !is_confirmed("bottom_exposure_s", &assumed));
    }

    #[rstest]
    #[case(Preset::Tilting, 5000, 7.5, 7.75)]
    #[case(Preset::PlainLift, 5000, 9.0, 14.0)]
    #[case(Preset::TwoStages, 5000, 9.0, 14.0)]
    #[case(Preset::LargePlate, 5000, 14.0, 22.0)]
    fn they_take_what_such_machines_take(
        #[case] preset: Preset,
        #[case] layers: u32,
        #[case] least_h: f64,
        #[case] most_h: f64,
    ) {
        let layer = LayerHeight::from_mm(0.05).unwrap();
        let kinds = [
            MachineKind::Screen,
            MachineKind::TiltingVat,
            MachineKind::Beam,
        ];
        let kind = kinds.into_iter().find(|k| Preset::of(*k).contains(&preset));
        let timing = preset.timing(layer);
        let none = Drawn::default();
        let hours = plate_seconds(kind.unwrap(), 120.0, &timing, layer, layers, none) / 3600.0;
        assert!((least_h..=most_h).contains(&hours), "{hours}");
    }
}
