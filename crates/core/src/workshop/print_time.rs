//! How long a printer takes for a plate.

use crate::units::LayerHeight;
use crate::words::words;

words! {
    /// How a machine hardens a layer; it decides what a plate's time depends on.
    MachineKind, "kind of machine" {
        /// A screen shows the whole layer at once: time by layers.
        Screen = "screen",
        /// The vat tilts instead of the plate lifting: a fixed cycle for every layer.
        TiltingVat = "tilting vat",
        /// A beam draws the layer: drawn area and outline count too.
        Beam = "beam",
    }
}

/// Every field of [`LayerTiming`], parted by commas.
pub const TIMING_FIELDS: &str = "exposure_s,bottom_layers,bottom_exposure_s,lift_mm,lift_mm_per_min,\
retract_mm_per_min,rest_s,tilt_cycle_s,beam_mm2_per_s,beam_mm_per_s,\
light_off_s,transition_layers,second_lift_mm,second_lift_mm_per_min,last_retract_mm,\
last_retract_mm_per_min,bottom_lift_mm,bottom_lift_mm_per_min";

/// Exposure and movement of one printer with one resin at one layer height.
///
/// # Units
/// Seconds, mm, mm per minute, as makers read them off their machine. All are at least 0.
#[derive(Debug, Clone, PartialEq)]
pub struct LayerTiming {
    /// Light on a normal layer, s. On a beam machine the fixed time of a layer.
    pub exposure_s: f64,
    /// How many bottom layers.
    pub bottom_layers: u32,
    /// Light on a bottom layer, s.
    pub bottom_exposure_s: f64,
    /// Lift after every layer, mm; screen and beam.
    pub lift_mm: f64,
    /// Speed of the lift, mm/min.
    pub lift_mm_per_min: f64,
    /// Speed of the way back, mm/min.
    pub retract_mm_per_min: f64,
    /// All rests of a layer together, s.
    pub rest_s: f64,
    /// Cycle of a tilting vat in place of lift and way back, s.
    pub tilt_cycle_s: f64,
    /// Area a beam draws in a second, mm²/s.
    pub beam_mm2_per_s: f64,
    /// Speed at which a beam draws outlines, mm/s.
    pub beam_mm_per_s: f64,
    /// Dark after a move before the light comes on, s.
    pub light_off_s: f64,
    /// Layers over which the exposure goes from that of a bottom layer to that of the others.
    pub transition_layers: u32,
    /// Second stage of the lift, mm; none where it is 0.
    pub second_lift_mm: f64,
    /// Its speed, mm/min.
    pub second_lift_mm_per_min: f64,
    /// The last of the way back that has a speed of its own, mm; none where it is 0.
    pub last_retract_mm: f64,
    /// That speed, mm/min.
    pub last_retract_mm_per_min: f64,
    /// Lift after a bottom layer, mm; that of the others where it is 0.
    pub bottom_lift_mm: f64,
    /// Its speed, mm/min.
    pub bottom_lift_mm_per_min: f64,
}

impl LayerTiming {
    /// A start for a printer about which nothing is known yet: common practice, no source
    /// (about 8 s a layer of 0.05 mm on a screen; 6 bottom layers of 30 s). Thinner layers get
    /// less light: exposure follows Jacobs' working curve with a penetration depth of 0.1 mm
    /// (P. Jacobs, Rapid Prototyping and Manufacturing, 1992, ch. 4, from memory).
    #[must_use]
    pub fn assumed(layer: LayerHeight) -> Self {
        let exposure = 2.0 * ((layer.mm() - 0.05) / 0.1).exp();
        Self {
            exposure_s: (exposure * 10.0).round() / 10.0,
            bottom_layers: 6,
            bottom_exposure_s: 30.0,
            lift_mm: 6.0,
            lift_mm_per_min: 120.0,
            retract_mm_per_min: 180.0,
            rest_s: 1.0,
            tilt_cycle_s: 4.0,
            beam_mm2_per_s: 100.0,
            beam_mm_per_s: 1000.0,
            light_off_s: 0.0,
            transition_layers: 0,
            second_lift_mm: 0.0,
            second_lift_mm_per_min: 180.0,
            last_retract_mm: 0.0,
            last_retract_mm_per_min: 60.0,
            bottom_lift_mm: 0.0,
            bottom_lift_mm_per_min: 60.0,
        }
    }

    /// Movement, rest and dark of one layer without its light, s.
    fn movement_s(&self, kind: MachineKind) -> f64 {
        let up = self.lift_mm + self.second_lift_mm;
        let lift = way_s(self.lift_mm, self.lift_mm_per_min)
            + way_s(self.second_lift_mm, self.second_lift_mm_per_min);
        self.cycle_s(kind, lift, up)
    }

    /// The same of a bottom layer.
    fn bottom_movement_s(&self, kind: MachineKind) -> f64 {
        if self.bottom_lift_mm <= 0.0 {
            return self.movement_s(kind);
        }
        let lift = way_s(self.bottom_lift_mm, self.bottom_lift_mm_per_min);
        self.cycle_s(kind, lift, self.bottom_lift_mm)
    }

    /// A layer's movement, with a lift that takes so long and leads so far up.
    fn cycle_s(&self, kind: MachineKind, lift_s: f64, up_mm: f64) -> f64 {
        let last = self.last_retract_mm.min(up_mm);
        let moved = match kind {
            MachineKind::TiltingVat => self.tilt_cycle_s,
            MachineKind::Screen | MachineKind::Beam => {
                lift_s
                    + way_s(up_mm - last, self.retract_mm_per_min)
                    + way_s(last, self.last_retract_mm_per_min)
            }
        };
        moved + self.rest_s + self.light_off_s
    }

    /// How far the plate goes up after any layer, mm; nowhere in a tilting vat.
    #[must_use]
    pub fn highest_lift_mm(&self, kind: MachineKind) -> f64 {
        match kind {
            MachineKind::TiltingVat => 0.0,
            MachineKind::Screen | MachineKind::Beam => {
                (self.lift_mm + self.second_lift_mm).max(self.bottom_lift_mm)
            }
        }
    }

    /// Layers that take longer than the others: those at the bottom and those that lead from them.
    #[must_use]
    pub fn slow_layers(&self) -> u32 {
        self.bottom_layers.saturating_add(self.transition_layers)
    }

    /// Light on all of so many layers, s: the k-th of n transition layers gets
    /// bottom + (normal − bottom) · k / (n + 1).
    fn light_s(&self, layers: u32) -> f64 {
        let bottom = layers.min(self.bottom_layers);
        let between = (layers - bottom).min(self.transition_layers);
        let normal = layers - bottom - between;
        // The sum of the first of them, k from 1.
        let k = f64::from(between) * (f64::from(between) + 1.0) / 2.0;
        let step =
            (self.exposure_s - self.bottom_exposure_s) / (f64::from(self.transition_layers) + 1.0);
        self.bottom_exposure_s * (f64::from(bottom) + f64::from(between))
            + step * k
            + self.exposure_s * f64::from(normal)
    }

    /// Time of one normal layer without what a beam draws, s.
    #[must_use]
    pub fn layer_s(&self, kind: MachineKind) -> f64 {
        self.exposure_s + self.movement_s(kind)
    }
}

/// How long a way takes at a speed, s.
fn way_s(mm: f64, mm_per_min: f64) -> f64 {
    if mm_per_min > 0.0 {
        mm / mm_per_min * 60.0
    } else {
        0.0
    }
}

/// What a beam has to draw on the whole plate, summed over its layers.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Drawn {
    /// Volume of all copies, mm³: their section areas times the layer height, summed.
    pub volume_mm3: f64,
    /// Surface of all copies, mm²: at least their section outlines times the layer height.
    pub surface_mm2: f64,
}

/// Time of a plate: start-up, bottom layers, all other layers. What stands on the plate beside
/// its tallest part does not matter, but on a beam machine.
///
/// # Units
/// Seconds.
#[must_use]
pub fn plate_seconds(
    kind: MachineKind,
    startup_s: f64,
    timing: &LayerTiming,
    layer: LayerHeight,
    layers: u32,
    drawn: Drawn,
) -> f64 {
    let bottom = layers.min(timing.bottom_layers);
    let movement = timing.movement_s(kind) * f64::from(layers - bottom)
        + timing.bottom_movement_s(kind) * f64::from(bottom);
    let light = timing.light_s(layers);
    let rate = |amount: f64, per_s: f64| {
        if per_s > 0.0 {
            amount / layer.mm() / per_s
        } else {
            0.0
        }
    };
    let beam = match kind {
        MachineKind::Beam => {
            rate(drawn.volume_mm3, timing.beam_mm2_per_s)
                + rate(drawn.surface_mm2, timing.beam_mm_per_s)
        }
        MachineKind::Screen | MachineKind::TiltingVat => 0.0,
    };
    startup_s + light + movement + beam
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::layer_count;
    use rstest::rstest;

    fn layer(mm: f64) -> LayerHeight {
        LayerHeight::from_mm(mm).unwrap()
    }

    fn screen() -> LayerTiming {
        LayerTiming {
            exposure_s: 2.5,
            bottom_layers: 5,
            bottom_exposure_s: 40.0,
            lift_mm: 8.0,
            lift_mm_per_min: 160.0,
            retract_mm_per_min: 240.0,
            rest_s: 1.5,
            ..LayerTiming::assumed(layer(0.05))
        }
    }

    /// Worked by hand: movement 8/160·60 + 8/240·60 + 1.5 = 6.5 s; 1,000 layers of which 5 bottom:
    /// 60 + 995·2.5 + 5·40 + 1000·6.5 = 9,247.5 s.
    #[test]
    fn a_plate_is_startup_bottom_layers_and_layers() {
        let seconds = plate_seconds(
            MachineKind::Screen,
            60.0,
            &screen(),
            layer(0.05),
            1000,
            Drawn::default(),
        );
        assert!((seconds - 9247.5).abs() < 1e-9);
    }

    /// Worked by hand: lift 2 mm at 60 and 5 mm at 180 mm/min, back 7 mm at 210: 2 + 1.67 + 2 s, rest 1
    /// and dark 0.5; 5 bottom layers of 40 s; six between them and 2.5 s: 6 · 40 − 37.5 · 21/7. Of
    /// fewer layers those below are counted: the second of six gets 40 − 37.5 · 2/7.
    #[rstest]
    #[case::a_plate(1000, 10_026.666_667)]
    #[case::bottom_layers_only(3, 60.0 + 3.0 * (40.0 + 7.166_667))]
    #[case::into_the_transition(7, 60.0 + 5.0 * 40.0 + 40.0 - 37.5 / 7.0 + 40.0 - 75.0 / 7.0 + 7.0 * 7.166_667)]
    fn lifts_have_stages_and_bottom_layers_fade(#[case] layers: u32, #[case] known: f64) {
        let timing = LayerTiming {
            lift_mm: 2.0,
            lift_mm_per_min: 60.0,
            second_lift_mm: 5.0,
            second_lift_mm_per_min: 180.0,
            retract_mm_per_min: 210.0,
            rest_s: 1.0,
            light_off_s: 0.5,
            transition_layers: 6,
            ..screen()
        };
        let seconds = |timing: &LayerTiming| {
            let none = Drawn::default();
            plate_seconds(MachineKind::Screen, 60.0, timing, layer(0.05), layers, none)
        };
        assert!(
            (seconds(&timing) - known).abs() < 1e-3,
            "{}",
            seconds(&timing)
        );
        // The last 2 mm back at 60 mm/min take 2 s in place of 0.57. Bottom layers lifted 10.5 mm at 90
        // and taken back at 210 take 7 + 3 s in place of 5.67.
        let slow = LayerTiming {
            last_retract_mm: 2.0,
            last_retract_mm_per_min: 60.0,
            ..timing.clone()
        };
        let more = (2.0 - 2.0 / 3.5) * f64::from(layers);
        assert!((seconds(&slow) - known - more).abs() < 1e-3);
        let high = LayerTiming {
            bottom_lift_mm: 10.5,
            bottom_lift_mm_per_min: 90.0,
            ..timing
        };
        let more = (7.0 + 3.0 - 5.666_667) * f64::from(layers.min(5));
        assert!((seconds(&high) - known - more).abs() < 1e-3);
    }

    /// 5,000 layers in 7 h 30 min are 5.4 s each, 4,500 in 8 h 6.4 s (common practice, no source):
    /// 1.5 s of light, 1.25 and 0.83 s on the way, and the rests.
    #[rstest]
    #[case(5000, 7.5, 1.816_667)]
    #[case(4500, 8.0, 2.816_667)]
    fn a_fast_machine_takes_five_to_six_seconds_a_layer(
        #[case] layers: u32,
        #[case] known: f64,
        #[case] rest_s: f64,
    ) {
        let timing = LayerTiming {
            exposure_s: 1.5,
            bottom_layers: 0,
            lift_mm: 5.0,
            lift_mm_per_min: 240.0,
            retract_mm_per_min: 360.0,
            rest_s,
            ..screen()
        };
        let hours = plate_seconds(
            MachineKind::Screen,
            0.0,
            &timing,
            layer(0.05),
            layers,
            Drawn::default(),
        ) / 3600.0;
        assert!((hours - known).abs() < 0.01, "{hours}");
    }

    #[rstest]
    #[case(MachineKind::Screen, true)]
    #[case(MachineKind::TiltingVat, true)]
    #[case(MachineKind::Beam, false)]
    fn four_copies_take_as_long_as_one_but_on_a_beam(
        #[case] kind: MachineKind,
        #[case] same: bool,
    ) {
        let one = Drawn {
            volume_mm3: 3000.0,
            surface_mm2: 2500.0,
        };
        let four = Drawn {
            volume_mm3: 12000.0,
            surface_mm2: 10000.0,
        };
        let time = |drawn| plate_seconds(kind, 90.0, &screen(), layer(0.05), 900, drawn);
        assert_eq!(time(one) == time(four), same);
    }

    /// 3,000 mm³ at 0.05 mm are 60,000 mm² of layers: 600 s at 100 mm²/s; 2,500 mm² of side are
    /// 50,000 mm of outline: 50 s at 1,000 mm/s.
    #[test]
    fn a_beam_adds_area_and_outline() {
        let drawn = Drawn {
            volume_mm3: 3000.0,
            surface_mm2: 2500.0,
        };
        let time =
            |drawn| plate_seconds(MachineKind::Beam, 0.0, &screen(), layer(0.05), 900, drawn);
        assert!((time(drawn) - time(Drawn::default()) - 650.0).abs() < 1e-9);
    }

    #[test]
    fn layers_of_two_hundredths_are_two_and_a_half_times_as_many_and_as_long() {
        let timing = LayerTiming {
            bottom_layers: 0,
            ..screen()
        };
        let time = |mm| {
            let count = layer_count(40.0, layer(mm));
            plate_seconds(
                MachineKind::Screen,
                0.0,
                &timing,
                layer(mm),
                count,
                Drawn::default(),
            )
        };
        assert!((time(0.02) / time(0.05) - 2.5).abs() < 1e-9);
    }

    #[test]
    fn a_plate_lower_than_its_bottom_layers_has_only_bottom_layers() {
        let seconds = plate_seconds(
            MachineKind::Screen,
            0.0,
            &screen(),
            layer(0.05),
            3,
            Drawn::default(),
        );
        assert!((seconds - 3.0 * 46.5).abs() < 1e-9);
    }
}
