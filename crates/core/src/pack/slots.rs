//! How long a plate keeps a printer, with the hours in which nobody takes it off.

/// Sooner by so much is worth a sentence, s.
const MUCH_S: f64 = 7_200.0;

/// What a plate of so many hours keeps its printer for, on the average of a fortnight: a plate
/// that is printed in the night is taken off in the morning, whenever it was done.
///
/// Without steps a printer is free again as soon as a plate is printed.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Slots {
    /// Plates up to this, and what they keep a printer for, s; both rise.
    steps: Vec<(f64, f64)>,
}

impl Slots {
    /// From steps: hours up to which one holds, and what such a plate keeps a printer for, s.
    #[must_use]
    pub fn new(mut steps: Vec<(f64, f64)>) -> Self {
        steps.retain(|(up_to, kept)| up_to.is_finite() && kept.is_finite());
        steps.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut most = 0.0_f64;
        for (up_to, kept) in &mut steps {
            most = most.max(*kept).max(*up_to);
            *kept = most;
        }
        Self { steps }
    }

    /// Whether anybody said when somebody is there.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.steps.is_empty()
    }

    /// What a plate that prints so long keeps its printer for, s; never less.
    #[must_use]
    pub fn kept(&self, seconds: f64) -> f64 {
        let at = self.steps.partition_point(|(up_to, _)| *up_to < seconds);
        match (self.steps.get(at), self.steps.last()) {
            (Some((_, kept)), _) => *kept,
            // Longer than was looked at: what is over goes on as it prints.
            (None, Some((up_to, kept))) => kept + (seconds - up_to),
            (None, None) => seconds,
        }
    }

    /// The least by which a plate would have to be shorter, at most `within`, so that its printer is
    /// free much sooner: by how much, and how much sooner, s.
    #[must_use]
    pub fn edge(&self, seconds: f64, within: f64) -> Option<(f64, f64)> {
        let kept = self.kept(seconds);
        let shorter = self.steps.iter().rev().find(|(up_to, of)| {
            *up_to < seconds && seconds - up_to <= within && kept - of >= MUCH_S
        });
        shorter.map(|(up_to, of)| (seconds - up_to, kept - of))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::in_the_first(50.0, 800.0)]
    #[case::to_its_end(100.0, 800.0)]
    #[case::in_the_second(101.0, 1200.0)]
    #[case::never_less_than_a_shorter_one(500.0, 1200.0)]
    #[case::past_the_last(700.0, 1300.0)]
    fn a_plate_keeps_its_printer(#[case] seconds: f64, #[case] kept: f64) {
        let slots = Slots::new(vec![(600.0, 900.0), (100.0, 800.0), (400.0, 1200.0)]);
        assert!((slots.kept(seconds) - kept).abs() < 1e-9);
        assert!((Slots::default().kept(seconds) - seconds).abs() < 1e-9);
    }

    /// Two hours keep a printer for eight, up to ten for twelve, what is longer for a day.
    #[rstest]
    #[case::just_over_two_hours(2.4, Some((0.4, 4.0)))]
    #[case::too_far_over(4.0, None)]
    #[case::in_the_first(1.9, None)]
    #[case::just_over_ten(10.5, Some((0.5, 12.0)))]
    fn a_little_less_frees_it_much_sooner(#[case] hours: f64, #[case] edge: Option<(f64, f64)>) {
        let steps = [(2.0, 8.0), (10.0, 12.0), (20.0, 24.0)];
        let slots = Slots::new(steps.map(|(a, b)| (a * 3600.0, b * 3600.0)).to_vec());
        let found = slots.edge(hours * 3600.0, 3600.0);
        let found = found.map(|(less, sooner)| (less / 3600.0, sooner / 3600.0));
        assert_eq!(found.is_some(), edge.is_some());
        if let (Some(found), Some(edge)) = (found, edge) {
            assert!((found.0 - edge.0).abs() < 1e-9 && (found.1 - edge.1).abs() < 1e-9);
        }
        assert_eq!(Slots::default().edge(hours * 3600.0, 3600.0), None);
    }
}
