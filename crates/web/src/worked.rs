//! What takes longer to work out than a page should take to answer: it is worked out once, aside,
//! and kept for as long as what it came from is the same.

use std::collections::VecDeque;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use tokio::sync::watch;
use wembrit_core::flow::Plate;
use wembrit_core::ids::PlateId;
use wembrit_core::plan::per_copy::{CopyOf, PerCopy};
use wembrit_core::plan::{OtherWays, PlateAdvice, PlateEdit};
use wembrit_core::schedule::{Asked, ScheduleError, Timetable, Work};
use wembrit_core::today::{Day, Held, InHand, Waiting};

/// Answers kept of each kind: what a few people look at.
const KEPT: usize = 12;

/// A page answers by then, with what there is.
pub(crate) const A_MOMENT: Duration = Duration::from_millis(20);

struct One<K, V> {
    from: Arc<K>,
    answer: watch::Receiver<Option<Arc<V>>>,
}

/// A plate, and other ways to hold the part that sets its hours.
type ToAdvise = (PlateEdit, Option<OtherWays>);
type AdvisedPlate = (Plate, PlateAdvice);

/// When each plate is printed and what is said of each project's date, or why there are no times.
pub(crate) type TimesOrWhy = Result<(Timetable, Vec<Asked>), ScheduleError>;

/// A day, what its lines hold up, till which moments they wait, and the minutes somebody has.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct AskedDay {
    pub(crate) day: Day,
    pub(crate) held: Vec<Option<Held>>,
    /// ms since 1970.
    pub(crate) tills_ms: Vec<i64>,
    /// Minutes, and till when somebody is away then, ms since 1970.
    pub(crate) in_hand: Option<(u32, i64)>,
}

/// What waiting costs, line by line and moment by moment, and what is best done.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct ToldDay {
    pub(crate) waits: Vec<Vec<Waiting>>,
    pub(crate) in_hand: Option<InHand>,
}

/// All that is kept so.
#[derive(Default)]
pub(crate) struct Kept {
    /// What would shorten plates.
    pub(crate) advice: Worked<Vec<ToAdvise>, Vec<AdvisedPlate>>,
    /// One copy, by how many share its plate.
    pub(crate) per_copy: Worked<CopyOf, Vec<PerCopy>>,
    /// When each plate is printed, and what is said of each project's date.
    pub(crate) times: Worked<Work, TimesOrWhy>,
    /// What waiting costs.
    pub(crate) days: Worked<AskedDay, Option<ToldDay>>,
    /// The order of the last of them: it stays as far as it can.
    order: Mutex<Vec<PlateId>>,
}

impl Kept {
    /// The order in which plates are printed by the last schedule.
    pub(crate) fn order(&self) -> Vec<PlateId> {
        let order = self.order.lock();
        order.unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Keeps the order of a schedule for the next.
    pub(crate) fn keep_order(&self, order: Vec<PlateId>) {
        *self.order.lock().unwrap_or_else(PoisonError::into_inner) = order;
    }
}

/// Answers of one kind, by all that they are worked out from.
pub(crate) struct Worked<K, V>(Mutex<VecDeque<One<K, V>>>);

impl<K, V> Default for Worked<K, V> {
    fn default() -> Self {
        Self(Mutex::default())
    }
}

impl<K: PartialEq + Send + Sync + 'static, V: Send + Sync + 'static> Worked<K, V> {
    /// The answer, where it is there within this time or, without one, when it is there. What is
    /// under way goes on after the time is over, and is found by whoever asks next. Nothing too
    /// when the work broke off. `hold` is let go when the work is done.
    pub(crate) async fn get(
        &self,
        hold: impl Send + 'static,
        from: impl Into<Arc<K>>,
        within: Option<Duration>,
        work: impl FnOnce(&K) -> V + Send + 'static,
    ) -> Option<Arc<V>> {
        let mut answer = self.begin(hold, from.into(), work);
        let there = async {
            let there = answer.wait_for(Option::is_some).await;
            there.ok().and_then(|there| there.clone())
        };
        match within {
            Some(within) => tokio::time::timeout(within, there).await.ok().flatten(),
            None => there.await,
        }
    }

    fn begin(
        &self,
        hold: impl Send + 'static,
        from: Arc<K>,
        work: impl FnOnce(&K) -> V + Send + 'static,
    ) -> watch::Receiver<Option<Arc<V>>> {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        // One that broke off has nobody left to answer.
        kept.retain(|one| one.answer.borrow().is_some() || one.answer.has_changed().is_ok());
        // What was loaded once is not compared with itself.
        let same = |one: &One<K, V>| Arc::ptr_eq(&one.from, &from) || one.from == from;
        if let Some(at) = kept.iter().position(same)
            && let Some(one) = kept.remove(at)
        {
            let answer = one.answer.clone();
            kept.push_front(one);
            return answer;
        }
        let (says, answer) = watch::channel(None);
        tokio::task::spawn_blocking({
            let from = from.clone();
            move || {
                says.send_replace(Some(Arc::new(work(&from))));
                drop(hold);
            }
        });
        kept.push_front(One {
            from,
            answer: answer.clone(),
        });
        kept.truncate(KEPT);
        answer
    }
}

#[cfg(test)]
mod tests {
    use std::sync::atomic::{AtomicUsize, Ordering};

    use super::*;

    #[tokio::test]
    async fn it_is_worked_out_once_for_the_same_thing_and_waited_for_no_longer_than_asked() {
        let worked: Worked<u32, u32> = Worked::default();
        let times = Arc::new(AtomicUsize::new(0));
        let in_a_while = || {
            let times = times.clone();
            move |from: &u32| {
                times.fetch_add(1, Ordering::Relaxed);
                std::thread::sleep(Duration::from_millis(200));
                from * 2
            }
        };
        let at_once = Some(Duration::from_millis(1));
        assert_eq!(worked.get((), 21, at_once, in_a_while()).await, None);
        assert_eq!(
            worked.get((), 21, None, in_a_while()).await.as_deref(),
            Some(&42)
        );
        assert_eq!(
            worked.get((), 21, at_once, in_a_while()).await.as_deref(),
            Some(&42)
        );
        assert_eq!(times.load(Ordering::Relaxed), 1);
        // Something else is another answer.
        assert_eq!(
            worked.get((), 4, None, in_a_while()).await.as_deref(),
            Some(&8)
        );
        assert_eq!(times.load(Ordering::Relaxed), 2);
    }

    #[tokio::test]
    async fn work_that_breaks_off_is_begun_anew() {
        let worked: Worked<u32, u32> = Worked::default();
        let broken = worked.get((), 1, None, |_| panic!("a fault")).await;
        assert_eq!(broken, None);
        assert_eq!(
            worked.get((), 1, None, |n| n + 1).await.as_deref(),
            Some(&2)
        );
    }
}
