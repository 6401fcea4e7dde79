//! What a printer needs of a plate: how long its layers take, how much resin they need, how far it moves.

use serde::{Deserialize, Serialize};

use crate::workshop::print_time::Drawn;
use crate::workshop::{Printer, ProcessSetting};

/// The version of the file.
const FORMAT: u32 = 1;

/// Layers that take equally long.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Stretch {
    /// How many.
    pub layers: u32,
    /// One of them, s.
    pub seconds: f64,
}

/// A plate as a printer gets it. Its file is this as JSON: `docs/printer-protocol.md`.
///
/// # Units
/// mm, mm², ml, seconds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Job {
    format: u32,
    /// What the printer shows.
    pub name: String,
    /// How tall a layer is, mm.
    pub layer_mm: f64,
    /// How far the plate rises after a layer, mm.
    pub lift_mm: f64,
    /// Before the first layer, s.
    pub startup_s: f64,
    /// Its layers, from the first to the last.
    pub stretches: Vec<Stretch>,
    /// What it takes, ml.
    pub resin_ml: f64,
    /// Sections from the plate upward at equal steps, mm².
    pub areas_mm2: Vec<f64>,
}

/// Why a file is none a printer can print.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum NoJob {
    /// It cannot be read.
    #[error("this is no file of a plate: {0}")]
    Unread(String),
    /// Another version.
    #[error("the file is of version {0}, this printer reads version {FORMAT}")]
    Version(u32),
    /// A figure that cannot be.
    #[error("{what} is {found}: it has to be a number of 0 at least")]
    Figure {
        /// Which one.
        what: &'static str,
        /// As it stands.
        found: f64,
    },
    /// Nothing to print.
    #[error("it has no layers")]
    Empty,
}

impl Job {
    /// So many layers that take so much resin, with their printer's setting. `areas_mm2` are the sections of all
    /// that hangs on the plate, from there upward at equal steps.
    #[must_use]
    pub fn of(
        name: String,
        (printer, setting): (&Printer, &ProcessSetting),
        (layers, resin_ml): (u32, f64),
        drawn: Drawn,
        areas_mm2: Vec<f64>,
    ) -> Self {
        let until = |n: u32| printer.plate_seconds_of(setting, n, Drawn::default());
        // What a beam draws is spread over all layers: the sections of a plate are not known one by one.
        let beam = printer.plate_seconds_of(setting, layers, drawn) - until(layers);
        let beam = beam / f64::from(layers.max(1));
        let mut stretches: Vec<Stretch> = Vec::new();
        for layer in 0..layers {
            let seconds = until(layer + 1) - until(layer) + beam;
            match stretches.last_mut() {
                Some(last) if (last.seconds - seconds).abs() < 1e-6 => last.layers += 1,
                _ => stretches.push(Stretch { layers: 1, seconds }),
            }
        }
        Self {
            format: FORMAT,
            name,
            layer_mm: setting.layer.mm(),
            lift_mm: setting.timing.highest_lift_mm(printer.kind),
            startup_s: until(0),
            stretches,
            resin_ml,
            areas_mm2,
        }
    }

    /// Reads a printer's file.
    ///
    /// # Errors
    /// [`NoJob`].
    pub fn read(bytes: &[u8]) -> Result<Self, NoJob> {
        let job: Self = serde_json::from_slice(bytes).map_err(|e| NoJob::Unread(e.to_string()))?;
        if job.format != FORMAT {
            return Err(NoJob::Version(job.format));
        }
        let figures = [
            ("a layer", job.layer_mm),
            ("the lift", job.lift_mm),
            ("the start-up", job.startup_s),
            ("the resin", job.resin_ml),
        ];
        let layers = job.stretches.iter().map(|s| ("a layer's time", s.seconds));
        let areas = job.areas_mm2.iter().map(|a| ("a section", *a));
        for (what, found) in figures.into_iter().chain(layers).chain(areas) {
            if !(found.is_finite() && found >= 0.0) {
                return Err(NoJob::Figure { what, found });
            }
        }
        let all = job
            .stretches
            .iter()
            .try_fold(0_u32, |sum, s| sum.checked_add(s.layers));
        match all {
            Some(0) => Err(NoJob::Empty),
            None => Err(NoJob::Unread("it has too many layers".into())),
            Some(_) => Ok(job),
        }
    }

    /// Its file.
    #[must_use]
    #[expect(
        clippy::missing_panics_doc,
        reason = "numbers and words always serialise"
    )]
    pub fn bytes(&self) -> Vec<u8> {
        serde_json::to_vec(self).expect("numbers and words always serialise")
    }

    /// What it prints, without what is only known of it: two jobs that are alike in this print the same.
    #[must_use]
    pub fn bare(&self) -> Self {
        Self {
            resin_ml: 0.0,
            areas_mm2: Vec::new(),
            ..self.clone()
        }
    }

    /// All of its layers.
    #[must_use]
    pub fn layers(&self) -> u32 {
        self.stretches.iter().map(|s| s.layers).sum()
    }

    /// How tall it stands, mm.
    #[must_use]
    pub fn height_mm(&self) -> f64 {
        f64::from(self.layers()) * self.layer_mm
    }

    /// How far up the plate goes at its last layer, mm.
    #[must_use]
    pub fn travel_mm(&self) -> f64 {
        self.height_mm() + self.lift_mm
    }

    /// From the start until so many layers are done, s.
    #[must_use]
    pub fn seconds_to(&self, layer: u32) -> f64 {
        let mut left = layer;
        let mut sum = self.startup_s;
        for stretch in &self.stretches {
            let of = left.min(stretch.layers);
            sum += f64::from(of) * stretch.seconds;
            left -= of;
        }
        sum
    }

    /// The whole of it, s.
    #[must_use]
    pub fn seconds(&self) -> f64 {
        self.seconds_to(self.layers())
    }

    /// What comes after so many layers, s.
    #[must_use]
    pub fn left_s(&self, layer: u32) -> f64 {
        self.seconds() - self.seconds_to(layer)
    }

    /// How many layers are done so long after the start.
    #[must_use]
    pub fn layer_at(&self, seconds: f64) -> u32 {
        let mut left = seconds - self.startup_s;
        let mut layer = 0;
        for stretch in &self.stretches {
            let whole = f64::from(stretch.layers) * stretch.seconds;
            if left < whole {
                // A hair of a rounded sum does not hold a layer back.
                return layer
                    + ((left / stretch.seconds + 1e-9).max(0.0) as u32).min(stretch.layers);
            }
            left -= whole;
            layer += stretch.layers;
        }
        layer
    }

    /// What its first layers take, ml: each its share by area, or all the same where sections are not known.
    #[must_use]
    pub fn resin_to(&self, layer: u32) -> f64 {
        let share = f64::from(layer.min(self.layers())) / f64::from(self.layers().max(1));
        let whole: f64 = self.areas_mm2.iter().sum();
        if whole <= 0.0 {
            return self.resin_ml * share;
        }
        let at = share * self.areas_mm2.len() as f64;
        let done: f64 = self
            .areas_mm2
            .iter()
            .enumerate()
            .map(|(index, area)| area * (at - index as f64).clamp(0.0, 1.0))
            .sum();
        self.resin_ml * done / whole
    }
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;
    use crate::ids::{PrinterId, ProcessSettingId, ResinId, SettingVersionId};
    use crate::units::LayerHeight;
    use crate::workshop::print_time::{LayerTiming, MachineKind};
    use proptest::prelude::*;
    use rstest::rstest;

    /// Start-up 150 s, six bottom layers of 35 s of light, 2.5 s, a lift of 7 mm at 120 and back at 180 mm/min, rest 1 s:
    /// a layer takes 2.5 + 3.5 + 7/3 + 1 s.
    pub(crate) fn thousand() -> Job {
        let moves = 7.0 / 120.0 * 60.0 + 7.0 / 180.0 * 60.0 + 1.0;
        Job {
            format: FORMAT,
            name: "plate-3-0a1b2c".into(),
            layer_mm: 0.05,
            lift_mm: 7.0,
            startup_s: 150.0,
            stretches: vec![
                Stretch {
                    layers: 6,
                    seconds: 35.0 + moves,
                },
                Stretch {
                    layers: 994,
                    seconds: 2.5 + moves,
                },
            ],
            resin_ml: 40.0,
            areas_mm2: vec![3.0, 1.0],
        }
    }

    /// What is only known of a plate makes no other print of it; another time for a layer does.
    #[test]
    fn jobs_are_alike_in_what_they_print() {
        let known_later = Job {
            resin_ml: 41.5,
            areas_mm2: vec![2.0, 2.0],
            ..thousand()
        };
        assert_eq!(known_later.bare(), thousand().bare());
        let mut longer = thousand();
        longer.stretches[1].seconds += 0.1;
        assert_ne!(longer.bare(), thousand().bare());
    }

    /// Worked by hand: 900 layers of 28/3 s are left at layer 100. Who takes the share of layers for the share of time
    /// says nine times what has passed, 9 · (150 + 6 · (35 + 41/6) + 94 · 28/3) s.
    #[test]
    fn what_is_left_is_told_by_layers() {
        let job = thousand();
        assert!((job.left_s(100) - 8400.0).abs() < 1e-6);
        let by_share = job.seconds_to(100) / 0.1 * 0.9;
        assert!((by_share - 11_505.0).abs() < 1e-6, "{by_share}");
        assert_eq!(job.height_mm(), 50.0);
        assert_eq!(job.travel_mm(), 57.0);
    }

    /// Three quarters of it are in the lower half.
    #[rstest]
    #[case(0, 0.0)]
    #[case(250, 15.0)]
    #[case(500, 30.0)]
    #[case(750, 35.0)]
    #[case(1000, 40.0)]
    #[case(5000, 40.0)]
    fn layers_take_resin_by_area(#[case] layer: u32, #[case] ml: f64) {
        let job = thousand();
        assert!((job.resin_to(layer) - ml).abs() < 1e-9);
        let even = Job {
            areas_mm2: Vec::new(),
            ..job
        };
        let share = f64::from(layer.min(1000)) / 1000.0;
        assert!((even.resin_to(layer) - 40.0 * share).abs() < 1e-9);
    }

    /// A job takes as long as the plan says, on every kind of machine; layers that take equally long are one stretch:
    /// six bottom layers, three that lead from them, all others.
    #[rstest]
    #[case::screen(MachineKind::Screen, 7.0)]
    #[case::tilting_vat(MachineKind::TiltingVat, 0.0)]
    #[case::beam(MachineKind::Beam, 7.0)]
    fn a_job_takes_as_long_as_its_plan(#[case] kind: MachineKind, #[case] lift_mm: f64) {
        let layer = LayerHeight::USUAL;
        let setting = ProcessSetting {
            id: ProcessSettingId(1),
            printer: PrinterId(1),
            resin: ResinId(1),
            layer,
            version: SettingVersionId(1),
            number: 1,
            timing: LayerTiming {
                transition_layers: 3,
                bottom_lift_mm: 7.0,
                ..LayerTiming::assumed(layer)
            },
            assumed: String::new(),
        };
        let printer = Printer {
            kind,
            ..Printer::assumed(PrinterId(1), "Plover", [130.0, 80.0, 160.0])
        };
        let drawn = Drawn {
            volume_mm3: 20_000.0,
            surface_mm2: 9_000.0,
        };
        let on = (&printer, &setting);
        let job = Job::of("plate-1".into(), on, (812, 46.4), drawn, Vec::new());
        let plan = printer.plate_seconds_of(&setting, 812, drawn);
        assert!(
            (job.seconds() - plan).abs() < 1e-6,
            "{} {plan}",
            job.seconds()
        );
        let layers: Vec<u32> = job.stretches.iter().map(|s| s.layers).collect();
        assert_eq!(layers, [6, 1, 1, 1, 803]);
        assert_eq!(
            (job.layers(), job.lift_mm, job.resin_ml),
            (812, lift_mm, 46.4)
        );
        assert_eq!(job.startup_s, printer.startup_s);
        assert_eq!(Job::read(&job.bytes()), Ok(job));
    }

    #[rstest]
    #[case::no_json(b"plate".to_vec(), "no file of a plate")]
    #[case::newer(Job { format: 2, ..thousand() }.bytes(), "version 2")]
    #[case::empty(Job { stretches: Vec::new(), ..thousand() }.bytes(), "no layers")]
    #[case::below_nothing(Job { lift_mm: -1.0, ..thousand() }.bytes(), "the lift is -1")]
    #[case::endless(
        Job { stretches: vec![Stretch { layers: u32::MAX, seconds: 1.0 }; 2], ..thousand() }.bytes(),
        "too many layers"
    )]
    fn a_file_that_cannot_be_is_refused(#[case] bytes: Vec<u8>, #[case] says: &str) {
        let why = Job::read(&bytes).unwrap_err().to_string();
        assert!(why.contains(says), "{why}");
    }

    proptest! {
        /// What is read is what was written; a layer is done when its time is over, and none sooner.
        #[test]
        fn layers_and_seconds_lead_back(
            startup_s in 0.0..300.0_f64,
            parts in prop::collection::vec((1_u32..400, 0.5..60.0_f64), 1..5),
            share in 0.0..1.0_f64,
        ) {
            let stretches = parts.iter().map(|(layers, seconds)| Stretch { layers: *layers, seconds: *seconds });
            let job = Job { startup_s, stretches: stretches.collect(), ..thousand() };
            prop_assert_eq!(&Job::read(&job.bytes()).unwrap(), &job);
            let layer = (share * f64::from(job.layers())) as u32;
            prop_assert_eq!(job.layer_at(job.seconds_to(layer)), layer);
            prop_assert!((job.seconds_to(layer) + job.left_s(layer) - job.seconds()).abs() < 1e-6);
            let mid = (job.seconds_to(layer) + job.seconds_to(layer + 1)) / 2.0;
            prop_assert_eq!(job.layer_at(mid), layer);
        }
    }
}
