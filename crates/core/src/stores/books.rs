//! Double entry: places, what they hold, and moves between them.

use std::collections::BTreeMap;
use std::iter::Sum;
use std::ops::{Add, AddAssign, Neg, Sub, SubAssign};

use crate::ids::{PrinterId, ResinId};

/// A volume of resin in whole µl, so that sums are exact.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default)]
pub struct Volume(pub i64);

/// What is no volume.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
#[error("write millilitres from 0 to 100000")]
pub struct VolumeError;

impl Volume {
    /// From ml, to the nearest µl.
    ///
    /// # Errors
    /// [`VolumeError`] for less than nothing, or more than anybody has.
    pub fn ml(ml: f64) -> Result<Self, VolumeError> {
        let sensible = (0.0..=100_000.0).contains(&ml);
        sensible
            .then(|| Self((ml * 1000.0).round() as i64))
            .ok_or(VolumeError)
    }

    /// In ml.
    #[must_use]
    pub fn in_ml(self) -> f64 {
        self.0 as f64 / 1000.0
    }
}

impl Add for Volume {
    type Output = Self;
    fn add(self, other: Self) -> Self {
        Self(self.0 + other.0)
    }
}
impl Sub for Volume {
    type Output = Self;
    fn sub(self, other: Self) -> Self {
        Self(self.0 - other.0)
    }
}
impl AddAssign for Volume {
    fn add_assign(&mut self, other: Self) {
        self.0 += other.0;
    }
}
impl SubAssign for Volume {
    fn sub_assign(&mut self, other: Self) {
        self.0 -= other.0;
    }
}
impl Neg for Volume {
    type Output = Self;
    fn neg(self) -> Self {
        Self(-self.0)
    }
}
impl Sum for Volume {
    fn sum<I: Iterator<Item = Self>>(all: I) -> Self {
        all.fold(Self(0), Add::add)
    }
}

/// How resin is lost.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Lost {
    /// On the bench or the floor.
    Spilt,
    /// Cured over the film and thrown away.
    Sheet,
    /// Drained off prints into the bath.
    Washed,
    /// In the vat and the strainer, with a change of resin.
    Changed,
    /// On gloves, tools and paper.
    Tools,
    /// A whole vat that was no good any more.
    WrittenOff,
}

/// Where resin is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Place {
    /// With whoever sells it: it owes the workshop what was bought.
    Seller,
    /// In a bottle, by its number.
    Bottle(i64),
    /// In the vat of a printer.
    Vat(PrinterId),
    /// In prints, supports and rafts.
    Printed,
    /// Gone.
    Gone(Lost),
    /// What a count of a bottle or a vat found more, or less, than the books.
    Counted,
}

impl Place {
    /// As it is kept: a word, and which one where there are several.
    #[must_use]
    pub const fn word(self) -> (&'static str, Option<i64>) {
        match self {
            Place::Seller => ("seller", None),
            Place::Bottle(id) => ("bottle", Some(id)),
            Place::Vat(printer) => ("vat", Some(printer.0)),
            Place::Printed => ("printed", None),
            Place::Gone(Lost::Spilt) => ("spilt", None),
            Place::Gone(Lost::Sheet) => ("sheet", None),
            Place::Gone(Lost::Washed) => ("washed", None),
            Place::Gone(Lost::Changed) => ("changed", None),
            Place::Gone(Lost::Tools) => ("tools", None),
            Place::Gone(Lost::WrittenOff) => ("written off", None),
            Place::Counted => ("counted", None),
        }
    }

    /// As [`Self::word`] wrote it.
    #[must_use]
    pub fn read(word: &str, id: Option<i64>) -> Option<Self> {
        Some(match (word, id) {
            ("seller", None) => Place::Seller,
            ("bottle", Some(id)) => Place::Bottle(id),
            ("vat", Some(id)) => Place::Vat(PrinterId(id)),
            ("printed", None) => Place::Printed,
            ("spilt", None) => Place::Gone(Lost::Spilt),
            ("sheet", None) => Place::Gone(Lost::Sheet),
            ("washed", None) => Place::Gone(Lost::Washed),
            ("changed", None) => Place::Gone(Lost::Changed),
            ("tools", None) => Place::Gone(Lost::Tools),
            ("written off", None) => Place::Gone(Lost::WrittenOff),
            ("counted", None) => Place::Counted,
            _ => return None,
        })
    }

    /// It can hold no less than nothing.
    #[must_use]
    pub const fn holds(self) -> bool {
        matches!(self, Place::Bottle(_) | Place::Vat(_))
    }
}

/// Some resin goes from one place to another.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Move {
    /// From there,
    pub from: Place,
    /// to there,
    pub to: Place,
    /// so much.
    pub volume: Volume,
}

/// Why a move cannot be.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
pub enum BooksError {
    /// There is less than that.
    #[error("there are {:.1} ml only, {:.1} ml are wanted: count what is there first", has.in_ml(), wanted.in_ml())]
    TooLittle {
        /// What is there.
        has: Volume,
        /// What is wanted.
        wanted: Volume,
    },
    /// From a place to itself, or less than nothing.
    #[error("that moves nothing")]
    Nothing,
    /// Something that is bought or found has to be of some resin.
    #[error("say which resin it is")]
    WhichResin,
}

/// What every place holds, resin by resin. What was mixed in one place stays mixed: whatever is taken
/// from there has a share of each.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Books(BTreeMap<Place, BTreeMap<ResinId, Volume>>);

/// What stays in a vat that was poured out, ml. Common practice, no source.
const LEFT_ML: f64 = 5.0;
/// Share of another resin from which a place holds a mix: common practice, no source.
const CLINGS: f64 = 0.02;

impl Books {
    /// What a place holds of all resins together; less than nothing where it gave more than it took.
    #[must_use]
    pub fn held(&self, place: Place) -> Volume {
        let of = self.0.get(&place);
        of.map_or(Volume(0), |all| all.values().copied().sum())
    }

    /// What a place holds, resin by resin.
    #[must_use]
    pub fn content(&self, place: Place) -> BTreeMap<ResinId, Volume> {
        self.0.get(&place).cloned().unwrap_or_default()
    }

    /// More than one resin is in a place; what clung to it of the one before is no mix.
    #[must_use]
    pub fn is_mixed(&self, place: Place) -> bool {
        let all = self.held(place).in_ml();
        let content = self.content(place);
        content
            .values()
            .filter(|v| v.in_ml() > CLINGS * all)
            .count()
            > 1
    }

    /// Resin stands in a place: more than what clings to a vat that was poured out.
    #[must_use]
    pub fn stands_in(&self, place: Place) -> bool {
        self.held(place).in_ml() >= LEFT_ML
    }

    /// The resin there is most of in a place; nothing where that is empty.
    #[must_use]
    pub fn resin_in(&self, place: Place) -> Option<ResinId> {
        let content = self.0.get(&place)?.iter();
        let there = content.filter(|(_, v)| v.0 > 0);
        there.max_by_key(|(_, v)| **v).map(|(resin, _)| *resin)
    }

    /// Everything in all places together: nothing, since each drop is owed by the seller or by a count.
    #[must_use]
    pub fn sum(&self) -> Volume {
        self.0.keys().map(|place| self.held(*place)).sum()
    }

    /// What is in bottles and vats.
    #[must_use]
    pub fn in_stock(&self) -> Volume {
        let holding = self.0.keys().filter(|p| p.holds());
        holding.map(|place| self.held(*place)).sum()
    }

    /// Moves resin. Of which resin it is has to be said where it comes from the seller or from a count;
    /// from a bottle or a vat it is what is in there.
    ///
    /// # Errors
    /// [`BooksError`]; nothing is moved then.
    pub fn make(&mut self, what: &Move, resin: Option<ResinId>) -> Result<(), BooksError> {
        if what.volume <= Volume(0) || what.from == what.to {
            return Err(BooksError::Nothing);
        }
        let shares = if what.from.holds() {
            let has = self.held(what.from);
            if has < what.volume {
                let wanted = what.volume;
                return Err(BooksError::TooLittle { has, wanted });
            }
            shares(&self.content(what.from), what.volume)
        } else {
            let resin = resin.ok_or(BooksError::WhichResin)?;
            BTreeMap::from([(resin, what.volume)])
        };
        for (resin, volume) in shares {
            *self.at(what.from, resin) -= volume;
            *self.at(what.to, resin) += volume;
        }
        Ok(())
    }

    /// A bottle or a vat was counted: it holds so much, and what is more or less is owed to the count.
    ///
    /// # Errors
    /// [`BooksError::WhichResin`] where more is found of nobody knows what.
    pub fn count(
        &mut self,
        place: Place,
        holds: Volume,
        resin: Option<ResinId>,
    ) -> Result<(), BooksError> {
        let off = holds - self.held(place);
        let (from, to) = match off.0 {
            0 => return Ok(()),
            1.. => (Place::Counted, place),
            _ => (place, Place::Counted),
        };
        let volume = Volume(off.0.abs());
        let known = self.content(place).into_iter().find(|(_, v)| v.0 > 0);
        let resin = resin.or_else(|| known.map(|(resin, _)| resin));
        self.make(&Move { from, to, volume }, resin)
    }

    fn at(&mut self, place: Place, resin: ResinId) -> &mut Volume {
        self.0.entry(place).or_default().entry(resin).or_default()
    }
}

/// Shares of a volume by what is there, whole µl: what rounding leaves goes to the largest.
fn shares(content: &BTreeMap<ResinId, Volume>, volume: Volume) -> BTreeMap<ResinId, Volume> {
    let all: Volume = content.values().copied().sum();
    let part = |of: &Volume| {
        let exact = i128::from(of.0) * i128::from(volume.0) / i128::from(all.0.max(1));
        Volume(i64::try_from(exact).unwrap_or(0))
    };
    let mut shares: BTreeMap<ResinId, Volume> = content
        .iter()
        .map(|(resin, of)| (*resin, part(of)))
        .collect();
    let mut rest = volume - shares.values().copied().sum();
    // At most one µl for each resin; none gives more than it has.
    for (resin, of) in content {
        let share = shares.entry(*resin).or_default();
        let more = rest.min(*of - *share).max(Volume(0));
        *share += more;
        rest -= more;
    }
    shares
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    const A: ResinId = ResinId(1);
    const B: ResinId = ResinId(2);

    fn go(from: Place, to: Place, ml: f64) -> Move {
        Move {
            from,
            to,
            volume: Volume::ml(ml).expect("ml"),
        }
    }

    /// By hand: 400 of one and 100 of the other in a vat are four to one; of 50 that are printed 10 are
    /// of the second.
    #[test]
    fn what_is_mixed_stays_mixed() {
        let vat = Place::Vat(PrinterId(1));
        let mut books = Books::default();
        books
            .make(&go(Place::Seller, Place::Bottle(1), 500.0), Some(A))
            .unwrap();
        books
            .make(&go(Place::Seller, Place::Bottle(2), 500.0), Some(B))
            .unwrap();
        books.make(&go(Place::Bottle(1), vat, 400.0), None).unwrap();
        books.make(&go(Place::Bottle(2), vat, 100.0), None).unwrap();
        books.make(&go(vat, Place::Printed, 50.0), None).unwrap();
        let printed = books.content(Place::Printed);
        assert_eq!((printed[&A], printed[&B]), (Volume(40_000), Volume(10_000)));
        assert_eq!(books.in_stock(), Volume(950_000));
        assert_eq!(books.held(Place::Seller), Volume(-1_000_000));
        books.count(vat, Volume(440_000), None).unwrap();
        assert_eq!(books.held(Place::Counted), Volume(10_000));
        assert_eq!(books.sum(), Volume(0));
    }

    #[rstest]
    #[case::too_little(go(Place::Bottle(1), Place::Printed, 101.0), None, "100.0 ml only")]
    #[case::nothing(go(Place::Bottle(1), Place::Printed, 0.0), None, "nothing")]
    #[case::to_itself(go(Place::Bottle(1), Place::Bottle(1), 5.0), None, "nothing")]
    #[case::of_what(go(Place::Seller, Place::Bottle(1), 5.0), None, "which resin")]
    fn what_cannot_be_moves_nothing(
        #[case] what: Move,
        #[case] resin: Option<ResinId>,
        #[case] why: &str,
    ) {
        let mut books = Books::default();
        books
            .make(&go(Place::Seller, Place::Bottle(1), 100.0), Some(A))
            .unwrap();
        let before = books.clone();
        let said = books.make(&what, resin).unwrap_err().to_string();
        assert!(said.contains(why), "{said}");
        assert_eq!(books, before);
    }

    #[rstest]
    #[case(f64::NAN)]
    #[case(-0.1)]
    #[case(1e9)]
    fn what_is_no_volume_is_refused(#[case] ml: f64) {
        assert_eq!(Volume::ml(ml), Err(VolumeError));
    }

    fn place() -> impl Strategy<Value = Place> {
        prop_oneof![
            Just(Place::Seller),
            (1..4_i64).prop_map(Place::Bottle),
            (1..3_i64).prop_map(|n| Place::Vat(PrinterId(n))),
            Just(Place::Printed),
            Just(Place::Gone(Lost::Spilt)),
            Just(Place::Gone(Lost::Sheet)),
            Just(Place::Gone(Lost::WrittenOff)),
        ]
    }

    proptest! {
        /// Whatever is poured, printed, spilt, cured, mixed and counted: all places together hold nothing,
        /// what is in stock is what was bought and counted less what left, and no bottle owes anything,
        /// resin by resin.
        #[test]
        fn the_books_balance(
            moves in proptest::collection::vec((place(), place(), 0..500_000_i64, 1..4_i64, any::<bool>()), 1..60)
        ) {
            let mut books = Books::default();
            for (from, to, ul, resin, counted) in moves {
                let resin = Some(ResinId(resin));
                if counted && from.holds() {
                    let _ = books.count(from, Volume(ul), resin);
                } else {
                    let _ = books.make(&Move { from, to, volume: Volume(ul) }, resin);
                }
                prop_assert_eq!(books.sum(), Volume(0));
                let owed = [Place::Seller, Place::Counted, Place::Printed,
                    Place::Gone(Lost::Spilt), Place::Gone(Lost::Sheet), Place::Gone(Lost::WrittenOff)];
                let elsewhere: Volume = owed.iter().map(|p| books.held(*p)).sum();
                prop_assert_eq!(books.in_stock(), -elsewhere);
                for place in (1..4).map(Place::Bottle).chain((1..3).map(|n| Place::Vat(PrinterId(n)))) {
                    prop_assert!(books.content(place).values().all(|v| v.0 >= 0));
                }
            }
        }
    }
}
