//! What a model is made of: parts for every model, choices between options, limits on a unit.

use crate::words::words;

words! {
    /// Where a piece that is not printed comes from.
    Source, "source of a piece" {
        /// Out of a box or off a shelf.
        Box = "box",
        /// Built by hand.
        ScratchBuilt = "scratch-built",
        /// Cast, laser-cut, printed elsewhere …
        AnotherProcess = "another process",
    }
}

/// A choice whose options do not add up.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum ChoiceFault {
    /// Fewer models than are wanted take one of the options.
    #[error("{chosen} of {quantity} models have one: give the other {} an option, or let models go without", quantity - chosen)]
    TooFew {
        /// Models that take an option.
        chosen: u64,
        /// Models wanted.
        quantity: u64,
    },
    /// More models than are wanted take an option.
    #[error("{chosen} models would have one, but only {quantity} are wanted: take {} away", chosen - quantity)]
    TooMany {
        /// Models that take an option.
        chosen: u64,
        /// Models wanted.
        quantity: u64,
    },
}

/// Whether the models that take each option add up to those that are wanted.
///
/// # Errors
/// [`ChoiceFault`]; too few are fine when models may go without.
pub fn check_choice(
    quantity: u32,
    option_models: &[u32],
    may_go_without: bool,
) -> Result<(), ChoiceFault> {
    let chosen: u64 = option_models.iter().map(|m| u64::from(*m)).sum();
    let quantity = u64::from(quantity);
    if chosen > quantity {
        Err(ChoiceFault::TooMany { chosen, quantity })
    } else if chosen < quantity && !may_go_without {
        Err(ChoiceFault::TooFew { chosen, quantity })
    } else {
        Ok(())
    }
}

/// A unit larger than what carries it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("{models} models, but {carriers} × {each} can be carried: {} too many", models - carriers * each)]
pub struct Overloaded {
    /// Models of the unit.
    pub models: u64,
    /// Copies of what carries them.
    pub carriers: u64,
    /// Models that each carries.
    pub each: u64,
}

/// Whether a unit's models find room on what carries them.
///
/// # Errors
/// [`Overloaded`] with the figures.
pub fn check_load(models: u64, carriers: u64, each: u64) -> Result<(), Overloaded> {
    if models <= carriers * each {
        Ok(())
    } else {
        Err(Overloaded {
            models,
            carriers,
            each,
        })
    }
}

/// Options as a person writes them: `3 spear, 2 axe`, `spear: 3; axe 2`.
///
/// # Shape
/// In the order written; a name without a number has no count. Empty for empty text.
///
/// # Errors
/// [`OptionsFault`] with the piece that cannot be read.
pub fn parse_options(text: &str) -> Result<Vec<(String, Option<u32>)>, OptionsFault> {
    let mut options: Vec<(String, Option<u32>)> = Vec::new();
    for piece in text.split([',', ';', '/', '\n']).map(str::trim) {
        if piece.is_empty() {
            continue;
        }
        let words: Vec<&str> = piece
            .split(|c: char| c.is_whitespace() || c == ':' || c == '=')
            .filter(|w| !w.is_empty())
            .collect();
        let number = |word: &str| {
            let digits = word
                .trim_start_matches(['x', '×'])
                .trim_end_matches(['x', '×']);
            (!digits.is_empty() && digits.bytes().all(|b| b.is_ascii_digit()))
                .then(|| digits.parse::<u32>())
        };
        let counts: Vec<_> = words.iter().filter_map(|w| number(w)).collect();
        let name: Vec<&str> = words
            .iter()
            .copied()
            .filter(|w| number(w).is_none())
            .collect();
        let name = name.join(" ");
        let count = match counts.as_slice() {
            [] => None,
            [Ok(count)] if *count <= crate::army::roster::MOST_MODELS => Some(*count),
            _ => return Err(OptionsFault::Unclear(piece.to_owned())),
        };
        if name.is_empty() {
            return Err(OptionsFault::Unclear(piece.to_owned()));
        }
        if options
            .iter()
            .any(|(known, _)| known.eq_ignore_ascii_case(&name))
        {
            return Err(OptionsFault::Twice(name));
        }
        options.push((name, count));
    }
    Ok(options)
}

/// Options that cannot be read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum OptionsFault {
    /// No name, or no single number.
    #[error("'{0}' is unclear: write each option with its number, such as 3 spear, 2 axe")]
    Unclear(String),
    /// A name that stands there twice.
    #[error("'{0}' stands there twice")]
    Twice(String),
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::five_with_spear_or_axe(5, &[3, 2], false, Ok(()))]
    #[case::all_the_same(5, &[5, 0], false, Ok(()))]
    #[case::one_without(5, &[3, 1], false, Err(ChoiceFault::TooFew { chosen: 4, quantity: 5 }))]
    #[case::one_may_go_without(5, &[3, 1], true, Ok(()))]
    #[case::one_too_many(5, &[3, 3], true, Err(ChoiceFault::TooMany { chosen: 6, quantity: 5 }))]
    #[case::nobody_wanted(0, &[], false, Ok(()))]
    #[case::huge(u32::MAX, &[u32::MAX, u32::MAX], false, Err(ChoiceFault::TooMany { chosen: 8_589_934_590, quantity: 4_294_967_295 }))]
    fn options_add_up_to_the_models(
        #[case] quantity: u32,
        #[case] models: &[u32],
        #[case] without: bool,
        #[case] expected: Result<(), ChoiceFault>,
    ) {
        assert_eq!(check_choice(quantity, models, without), expected);
    }

    #[rstest]
    #[case(12, 1, 12, None)]
    #[case(13, 1, 12, Some("13 models, but 1 × 12 can be carried: 1 too many"))]
    #[case(13, 2, 12, None)]
    #[case(1, 0, 12, Some("1 models, but 0 × 12 can be carried: 1 too many"))]
    fn a_unit_is_no_larger_than_what_carries_it(
        #[case] models: u64,
        #[case] carriers: u64,
        #[case] each: u64,
        #[case] says: Option<&str>,
    ) {
        let fault = check_load(models, carriers, each)
            .err()
            .map(|f| f.to_string());
        assert_eq!(fault.as_deref(), says);
    }

    #[rstest]
    #[case("3 spear, 2 axe", &[("spear", Some(3)), ("axe", Some(2))])]
    #[case("spear: 3; long axe 2x", &[("spear", Some(3)), ("long axe", Some(2))])]
    #[case("spear / axe", &[("spear", None), ("axe", None)])]
    #[case(" , ", &[])]
    fn options_are_read_as_written(#[case] text: &str, #[case] expected: &[(&str, Option<u32>)]) {
        let expected: Vec<_> = expected
            .iter()
            .map(|(n, c)| ((*n).to_owned(), *c))
            .collect();
        assert_eq!(parse_options(text), Ok(expected));
    }

    #[rstest]
    #[case("3")]
    #[case("3 spear 4")]
    #[case("99999999999 spear")]
    #[case("6000 spear")]
    #[case("spear 2, Spear 3")]
    fn unclear_options_are_refused(#[case] text: &str) {
        assert!(parse_options(text).is_err());
    }
}
