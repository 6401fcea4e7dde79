//! One pair of hands: when somebody is there, and what they do meanwhile.

use super::shop::{Minute, Window};

/// The hands, filled with what they do.
#[derive(Debug, Clone)]
pub struct Hands<'a> {
    windows: &'a [Window],
    /// What they do in each window, in order.
    busy: Vec<Vec<(Minute, Minute)>>,
    /// Windows in which they do something.
    used: Vec<usize>,
}

impl<'a> Hands<'a> {
    /// Hands that are there in these windows, in order, and do nothing yet.
    #[must_use]
    pub fn new(windows: &'a [Window]) -> Self {
        Self {
            windows,
            busy: vec![Vec::new(); windows.len()],
            used: Vec::new(),
        }
    }

    /// Nothing is done any more.
    pub(super) fn clear(&mut self) {
        for window in self.used.drain(..) {
            self.busy[window].clear();
        }
    }

    /// The earliest moment from `from` at which the hands are free for `hands` minutes, and the
    /// window goes on for `span` at least.
    #[must_use]
    pub fn free(&self, from: Minute, hands: Minute, span: Minute) -> Option<Minute> {
        self.look(from, hands, span).map(|(at, ..)| at)
    }

    /// The same, and they do it.
    pub fn take(&mut self, from: Minute, hands: Minute, span: Minute) -> Option<Minute> {
        let (at, window, before) = self.look(from, hands, span)?;
        if hands > 0 {
            let busy = &mut self.busy[window];
            if busy.is_empty() {
                self.used.push(window);
            }
            busy.insert(before, (at, at + hands));
        }
        Some(at)
    }

    fn look(&self, from: Minute, hands: Minute, span: Minute) -> Option<(Minute, usize, usize)> {
        let long = hands.max(span);
        let first = self.windows.partition_point(|w| w.to < from + long);
        for (w, window) in self.windows.iter().enumerate().skip(first) {
            let mut at = window.from.max(from);
            let busy = &self.busy[w];
            let mut next = busy.partition_point(|b| b.1 <= at);
            while at + long <= window.to {
                match busy.get(next) {
                    Some(b) if b.0 < at + hands => {
                        at = b.1.max(at);
                        next += 1;
                    }
                    _ => return Some((at, w, next)),
                }
            }
        }
        None
    }
}

/// The earliest moment from `from` at which a window goes on for `span` at least, whatever the
/// hands do: never later than when they are asked.
pub(super) fn attended(windows: &[Window], from: Minute, span: Minute) -> Option<Minute> {
    let first = windows.partition_point(|w| w.to < from + span);
    windows[first..]
        .iter()
        .map(|w| w.from.max(from))
        .zip(&windows[first..])
        .find(|(at, w)| at + span <= w.to)
        .map(|(at, _)| at)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const DAY: &[Window] = &[Window { from: 480, to: 600 }, Window { from: 700, to: 760 }];

    #[rstest]
    #[case::at_once((490, 10, 10), Some(490))]
    #[case::not_there_yet((0, 10, 10), Some(480))]
    #[case::to_the_last_minute((590, 10, 10), Some(590))]
    #[case::the_next_window((591, 10, 10), Some(700))]
    #[case::stays_with_free_hands((560, 10, 60), Some(700))]
    #[case::around_what_they_do((500, 15, 15), Some(530))]
    #[case::into_the_gap((490, 10, 10), Some(490))]
    #[case::longer_than_any((480, 10, 121), None)]
    #[case::over((755, 10, 10), None)]
    fn hands_are_free(
        #[case] (from, hands, span): (Minute, Minute, Minute),
        #[case] at: Option<Minute>,
    ) {
        let mut all = Hands::new(DAY);
        assert_eq!(all.take(510, 20, 20), Some(510));
        assert_eq!(all.free(from, hands, span), at);
        let alone = attended(DAY, from, span.max(hands));
        assert!(alone.is_some() == at.is_some() && alone <= at, "{alone:?}");
    }

    #[test]
    fn they_do_one_thing_at_a_time() {
        let mut all = Hands::new(DAY);
        let begun: Vec<_> = (0..14).filter_map(|_| all.take(0, 15, 15)).collect();
        assert_eq!(
            begun,
            [480, 495, 510, 525, 540, 555, 570, 585, 700, 715, 730, 745]
        );
        all.clear();
        assert_eq!(all.take(0, 15, 15), Some(480));
    }
}
