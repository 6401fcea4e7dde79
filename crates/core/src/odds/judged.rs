//! The share of copies that come out good.

/// Copies that were judged.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Judged {
    /// Good ones, those set aside among them.
    pub good: u64,
    /// Failed ones.
    pub failed: u64,
}

/// Share taken until enough are judged (common practice, no source).
const USUAL_SHARE: f64 = 0.9;

/// Judged copies that are enough for a share of their own.
const ENOUGH: u64 = 10;

impl Judged {
    /// Share of the judged copies that came out good; nine of ten while fewer than ten are judged.
    #[must_use]
    pub fn share_good(&self) -> f64 {
        let all = self.good + self.failed;
        if all < ENOUGH {
            USUAL_SHARE
        } else {
            self.good as f64 / all as f64
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::nothing_yet(0, 0, 0.9)]
    #[case::too_few(5, 4, 0.9)]
    #[case::enough(6, 4, 0.6)]
    fn a_share_is_told_from_ten_on(#[case] good: u64, #[case] failed: u64, #[case] share: f64) {
        assert!((Judged { good, failed }.share_good() - share).abs() < 1e-12);
    }
}
