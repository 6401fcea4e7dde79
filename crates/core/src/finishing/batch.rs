//! A batch on its way: where it stands, and the only ways on.

use super::route::{RouteFault, RouteStep, check_route};
use super::step::Step;
use crate::ids::{BatchId, PlateId, RunId};
use crate::words::words;
use crate::workshop::resin::WashAgent;

words! {
    /// Where a batch stands.
    BatchState, "state of a batch" {
        /// The next step is not begun.
        Waiting = "waiting",
        /// Somebody is at it.
        InHand = "in hand",
        /// A step goes on by itself until its time is over.
        Resting = "resting",
        /// Every step is behind it.
        Done = "done",
    }
}

words! {
    /// Where a step of a batch stands.
    StepState, "state of a step" {
        /// Not begun.
        Ahead = "ahead",
        /// Under way.
        Now = "now",
        /// Behind it.
        Done = "done",
        /// Left out, with a reason.
        Skipped = "skipped",
    }
}

/// One step of a batch.
#[derive(Debug, Clone, PartialEq)]
pub struct BatchStep {
    /// What is done.
    pub step: Step,
    /// How long it should take, min.
    pub minutes: f64,
    /// What is to be looked to.
    pub notes: Vec<String>,
    /// Where it stands.
    pub state: StepState,
    /// When it was begun, ms since 1970.
    pub began_at_ms: Option<i64>,
    /// When it is over, or was.
    pub ends_at_ms: Option<i64>,
    /// Why it was left out.
    pub reason: String,
}

/// The copies of one ended run on their way through finishing.
#[derive(Debug, Clone, PartialEq)]
pub struct Batch {
    /// Which one.
    pub id: BatchId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// The run it came from.
    pub run: RunId,
    /// The plate of that run.
    pub plate: PlateId,
    /// When it came off the printer, ms since 1970.
    pub off_at_ms: i64,
    /// Its steps, in order.
    pub steps: Vec<BatchStep>,
    /// Pieces counted after the wash, where somebody counted.
    pub counted: Option<i64>,
    /// What it is washed in; nothing for batches of before that was written down.
    pub washed_in: Option<WashAgent>,
}

/// What is done with a batch.
#[derive(Debug, Clone, PartialEq)]
pub enum BatchAct {
    /// The next step begins.
    Begin,
    /// The step under way is over; one that was not begun is logged afterwards.
    End,
    /// The next step is left out.
    Skip {
        /// Why.
        reason: String,
    },
    /// The step under way takes so many minutes more, or fewer.
    More {
        /// Minutes, from now where its time is over.
        minutes: f64,
    },
    /// The last step that was ended, skipped or begun is taken back.
    Back,
}

/// Why something cannot be done with a batch.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BatchFault {
    /// There is no step ahead.
    #[error("every step of this batch is done")]
    AllDone,
    /// Another step is under way.
    #[error("'{0}' is under way: end it first")]
    UnderWay(Step),
    /// No step is under way.
    #[error("no step is under way: begin the next one")]
    NothingUnderWay,
    /// A step is skipped without saying why.
    #[error("say why '{0}' is skipped: a word is enough")]
    NoReason(Step),
    /// The last look is not skipped.
    #[error("the copies are judged on their plate's sheet: 'judge' is not skipped")]
    JudgedElsewhere,
    /// Another order would move what is behind the batch.
    #[error("what is behind the batch stays in its place: change the steps ahead only")]
    Behind,
    /// The order is not permitted.
    #[error(transparent)]
    Route(#[from] RouteFault),
    /// There is nothing to take back.
    #[error("nothing was done with this batch yet")]
    NothingBehind,
}

impl Batch {
    /// Where it stands.
    #[must_use]
    pub fn state(&self) -> BatchState {
        match self.now().map(|at| self.steps[at].step.rests()) {
            Some(true) => BatchState::Resting,
            Some(false) => BatchState::InHand,
            None if self.next().is_none() => BatchState::Done,
            None => BatchState::Waiting,
        }
    }

    /// The step under way.
    #[must_use]
    pub fn now(&self) -> Option<usize> {
        self.steps.iter().position(|s| s.state == StepState::Now)
    }

    /// The first step that is not begun.
    #[must_use]
    pub fn next(&self) -> Option<usize> {
        self.steps.iter().position(|s| s.state == StepState::Ahead)
    }

    /// The step it is about: the one under way, else the next.
    #[must_use]
    pub fn current(&self) -> Option<&BatchStep> {
        self.now().or(self.next()).map(|at| &self.steps[at])
    }

    /// When the step under way should be over, ms since 1970.
    #[must_use]
    pub fn due_at_ms(&self) -> Option<i64> {
        self.now().and_then(|at| self.steps[at].ends_at_ms)
    }

    /// Since when it has been where it stands, ms since 1970.
    #[must_use]
    pub fn since_ms(&self) -> i64 {
        let over = |s: &BatchStep| matches!(s.state, StepState::Done | StepState::Skipped);
        let last = self.steps.iter().rfind(|s| over(s));
        let ended = last.and_then(|s| s.ends_at_ms).unwrap_or(self.off_at_ms);
        self.now()
            .and_then(|at| self.steps[at].began_at_ms)
            .unwrap_or(ended)
    }

    /// The batch after something was done with it at a time, ms since 1970.
    ///
    /// # Errors
    /// [`BatchFault`], with what to do.
    pub fn after(&self, act: &BatchAct, at_ms: i64) -> Result<Self, BatchFault> {
        let mut batch = self.clone();
        let now = self.now();
        let ahead = self.next().ok_or(BatchFault::AllDone);
        match act {
            BatchAct::Begin => {
                if let Some(at) = now {
                    return Err(BatchFault::UnderWay(self.steps[at].step));
                }
                batch.steps[ahead?].begin(at_ms);
            }
            BatchAct::End => {
                let at = match now {
                    Some(at) => at,
                    None => ahead?,
                };
                batch.steps[at].end(at_ms);
            }
            BatchAct::Skip { reason } => {
                let at = match now {
                    Some(at) => at,
                    None => ahead?,
                };
                let step = &mut batch.steps[at];
                if step.step == Step::Judge {
                    return Err(BatchFault::JudgedElsewhere);
                }
                if reason.trim().is_empty() {
                    return Err(BatchFault::NoReason(step.step));
                }
                step.state = StepState::Skipped;
                step.reason = reason.trim().to_owned();
                step.ends_at_ms = Some(at_ms);
            }
            BatchAct::More { minutes } => {
                let at = now.ok_or(BatchFault::NothingUnderWay)?;
                let step = &mut batch.steps[at];
                let from = step.ends_at_ms.unwrap_or(at_ms).max(at_ms);
                step.ends_at_ms = Some((from + ms(*minutes)).max(at_ms));
            }
            BatchAct::Back => {
                let touched = |s: &BatchStep| s.state != StepState::Ahead;
                let last = self.steps.iter().rposition(touched);
                batch.steps[last.ok_or(BatchFault::NothingBehind)?].put_ahead();
            }
        }
        Ok(batch)
    }
}

/// Minutes of a step that somebody puts in and nobody has reckoned: common practice, no source.
const PUT_IN_MIN: f64 = 5.0;

impl Batch {
    /// The batch with another order of its steps; what is behind it or under way stays where it is.
    ///
    /// # Errors
    /// [`BatchFault`] with the rule the order breaks.
    pub fn reordered(&self, order: &[Step]) -> Result<Self, BatchFault> {
        check_route(order)?;
        let begun = |s: &&BatchStep| s.state != StepState::Ahead;
        let kept: Vec<Step> = self.steps.iter().filter(begun).map(|s| s.step).collect();
        if !order.starts_with(&kept) {
            return Err(BatchFault::Behind);
        }
        let step = |step: &Step| {
            let there = self.steps.iter().find(|s| s.step == *step);
            there.cloned().unwrap_or_else(|| {
                BatchStep::ahead(RouteStep {
                    step: *step,
                    minutes: PUT_IN_MIN,
                    notes: Vec::new(),
                })
            })
        };
        Ok(Self {
            steps: order.iter().map(step).collect(),
            ..self.clone()
        })
    }

    /// The batch when every copy of it is judged: nothing is before it any more. What was under
    /// way is over, what was not begun was left out.
    #[must_use]
    pub fn closed(&self, at_ms: i64) -> Self {
        let mut batch = self.clone();
        for step in &mut batch.steps {
            match step.state {
                StepState::Now => step.end(at_ms),
                StepState::Ahead if step.step == Step::Judge => step.end(at_ms),
                StepState::Ahead => {
                    step.state = StepState::Skipped;
                    step.reason = "judged already".into();
                    step.ends_at_ms = Some(at_ms);
                }
                StepState::Done | StepState::Skipped => {}
            }
        }
        batch
    }

    /// The batch when its copies are to be looked at once more.
    #[must_use]
    pub fn looked_at_again(&self) -> Self {
        let mut batch = self.clone();
        let judge = batch.steps.iter_mut().filter(|s| s.step == Step::Judge);
        judge.for_each(BatchStep::put_ahead);
        batch
    }
}

fn ms(minutes: f64) -> i64 {
    (minutes * 60_000.0) as i64
}

impl Batch {
    /// The same washed in something: what nobody has begun takes its minutes and notes from a route
    /// made for that.
    #[must_use]
    pub fn washed_in(&self, agent: WashAgent, route: &[RouteStep]) -> Self {
        let mut after = self.clone();
        after.washed_in = Some(agent);
        let ahead = |s: &&mut BatchStep| s.state == StepState::Ahead;
        for step in after.steps.iter_mut().filter(ahead) {
            if let Some(of) = route.iter().find(|r| r.step == step.step) {
                *step = BatchStep::ahead(of.clone());
            }
        }
        after
    }
}

impl BatchStep {
    /// A step of a route that nobody has begun.
    #[must_use]
    pub fn ahead(of: RouteStep) -> Self {
        Self {
            step: of.step,
            minutes: of.minutes,
            notes: of.notes,
            state: StepState::Ahead,
            began_at_ms: None,
            ends_at_ms: None,
            reason: String::new(),
        }
    }

    fn put_ahead(&mut self) {
        self.state = StepState::Ahead;
        (self.began_at_ms, self.ends_at_ms) = (None, None);
        self.reason = String::new();
    }

    fn begin(&mut self, at_ms: i64) {
        self.state = StepState::Now;
        self.began_at_ms = Some(at_ms);
        self.ends_at_ms = Some(at_ms + ms(self.minutes));
    }

    fn end(&mut self, at_ms: i64) {
        self.state = StepState::Done;
        // Logged afterwards it took what it should.
        let usual = at_ms - ms(self.minutes);
        self.began_at_ms = Some(self.began_at_ms.unwrap_or(usual).min(at_ms));
        self.ends_at_ms = Some(at_ms);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const MIN: i64 = 60_000;

    fn batch(steps: &[Step]) -> Batch {
        let step = |step: &Step| BatchStep {
            step: *step,
            minutes: 4.0,
            notes: Vec::new(),
            state: StepState::Ahead,
            began_at_ms: None,
            ends_at_ms: None,
            reason: String::new(),
        };
        Batch {
            id: BatchId(1),
            row_version: 1,
            run: RunId(1),
            plate: PlateId(1),
            off_at_ms: 0,
            steps: steps.iter().map(step).collect(),
            counted: None,
            washed_in: None,
        }
    }

    fn skip() -> BatchAct {
        BatchAct::Skip {
            reason: "no supports on these".into(),
        }
    }

    /// Every state of a batch with everything that can be done with it, for every step: the state
    /// after it, or the sentence why not.
    #[test]
    fn these_ways_lead_on_and_no_others() {
        use BatchState as B;
        let acts = [
            BatchAct::Begin,
            BatchAct::End,
            skip(),
            BatchAct::More { minutes: 2.0 },
            BatchAct::Back,
        ];
        for step in Step::ALL {
            let fresh = batch(&[*step]);
            let at_it = fresh.after(&BatchAct::Begin, 0).unwrap();
            let done = at_it.after(&BatchAct::End, MIN).unwrap();
            let going = if step.rests() { B::Resting } else { B::InHand };
            assert_eq!(
                [fresh.state(), at_it.state(), done.state()],
                [B::Waiting, going, B::Done]
            );
            let judge = *step == Step::Judge;
            let skipped = if judge {
                Err(BatchFault::JudgedElsewhere)
            } else {
                Ok(B::Done)
            };
            let expected = [
                // Waiting.
                [
                    Ok(going),
                    Ok(B::Done),
                    skipped.clone(),
                    Err(BatchFault::NothingUnderWay),
                    Err(BatchFault::NothingBehind),
                ],
                // Under way.
                [
                    Err(BatchFault::UnderWay(*step)),
                    Ok(B::Done),
                    skipped,
                    Ok(going),
                    Ok(B::Waiting),
                ],
                // Done.
                [
                    Err(BatchFault::AllDone),
                    Err(BatchFault::AllDone),
                    Err(BatchFault::AllDone),
                    Err(BatchFault::NothingUnderWay),
                    Ok(B::Waiting),
                ],
            ];
            for (from, row) in [&fresh, &at_it, &done].into_iter().zip(expected) {
                for (act, wanted) in acts.iter().zip(row) {
                    let got = from.after(act, 2 * MIN).map(|b| b.state());
                    assert_eq!(got, wanted, "{step}: {:?} {act:?}", from.state());
                }
            }
        }
    }

    /// Another order keeps what is behind; closed, nothing is ahead; looked at again, the last look.
    #[test]
    fn a_batch_is_put_in_another_order_closed_and_looked_at_again() {
        use Step as S;
        let route = [S::Remove, S::Wash, S::Dry, S::Cure, S::Judge];
        let removed = batch(&route).after(&BatchAct::End, MIN).unwrap();
        let joined = [S::Remove, S::Wash, S::Dry, S::Join, S::Cure, S::Judge];
        let other = removed.reordered(&joined).unwrap();
        assert_eq!(other.steps.len(), 6);
        assert_eq!(other.steps[0], removed.steps[0]);
        let moved = [S::Wash, S::Remove, S::Dry, S::Cure, S::Judge];
        assert_eq!(removed.reordered(&moved), Err(BatchFault::Behind));
        let wet = [S::Remove, S::Wash, S::Cure, S::Dry, S::Judge];
        assert!(matches!(removed.reordered(&wet), Err(BatchFault::Route(_))));

        let washing = removed.after(&BatchAct::Begin, 2 * MIN).unwrap();
        let closed = washing.closed(9 * MIN);
        let states: Vec<StepState> = closed.steps.iter().map(|s| s.state).collect();
        let (done, out) = (StepState::Done, StepState::Skipped);
        assert_eq!(states, [done, done, out, out, done]);
        assert_eq!(closed.state(), BatchState::Done);
        let again = closed.looked_at_again();
        assert_eq!(again.current().map(|s| s.step), Some(S::Judge));
        assert_eq!(again.closed(9 * MIN).state(), BatchState::Done);
    }

    /// Time on a step is a deadline: begun at 10 it is over at 14 minutes; two minutes more asked
    /// for at 20 count from then.
    #[test]
    fn a_step_has_its_deadline() {
        let fresh = batch(&[Step::Wash, Step::Dry]);
        let washing = fresh.after(&BatchAct::Begin, 10 * MIN).unwrap();
        assert_eq!(washing.due_at_ms(), Some(14 * MIN));
        let more = BatchAct::More { minutes: 2.0 };
        assert_eq!(
            washing.after(&more, 12 * MIN).unwrap().due_at_ms(),
            Some(16 * MIN)
        );
        assert_eq!(
            washing.after(&more, 20 * MIN).unwrap().due_at_ms(),
            Some(22 * MIN)
        );
        let washed = washing.after(&BatchAct::End, 15 * MIN).unwrap();
        assert_eq!((washed.due_at_ms(), washed.since_ms()), (None, 15 * MIN));
        // Logged afterwards, it took its four minutes.
        let dried = washed.after(&BatchAct::End, 40 * MIN).unwrap();
        assert_eq!(dried.steps[1].began_at_ms, Some(36 * MIN));
        assert_eq!(dried.after(&BatchAct::Back, 41 * MIN).unwrap(), washed);
    }

    #[test]
    fn a_skipped_step_says_why() {
        let fresh = batch(&[Step::SupportsOff, Step::Judge]);
        let blank = BatchAct::Skip {
            reason: "  ".into(),
        };
        assert_eq!(
            fresh.after(&blank, 0).unwrap_err().to_string(),
            "say why 'supports off' is skipped: a word is enough"
        );
        let on = fresh.after(&skip(), 0).unwrap();
        assert_eq!(on.steps[0].reason, "no supports on these");
        assert_eq!(on.current().map(|s| s.step), Some(Step::Judge));
    }
}
