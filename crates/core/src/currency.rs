//! Currencies: how amounts are written and read.

use crate::units::Money;

/// A currency by its three letters: how many decimals its amounts are written with, and so what a minor unit is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Currency {
    /// Decimals: 2 for most, 0 or 3 for some.
    pub decimals: u8,
}

impl Currency {
    /// Those without a minor unit, and those with a thousandth of one (ISO 4217, list one; from memory).
    const NONE: &'static [&'static str] = &[
        "BIF", "CLP", "DJF", "GNF", "ISK", "JPY", "KMF", "KRW", "PYG", "RWF", "UGX", "UYI", "VND",
        "VUV", "XAF", "XOF", "XPF",
    ];
    const THREE: &'static [&'static str] = &["BHD", "IQD", "JOD", "KWD", "LYD", "OMR", "TND"];

    /// By its letters; two decimals for what is in neither list.
    #[must_use]
    pub fn of(code: &str) -> Self {
        let decimals = match code {
            _ if Self::NONE.contains(&code) => 0,
            _ if Self::THREE.contains(&code) => 3,
            _ => 2,
        };
        Self { decimals }
    }

    /// Minor units in a whole one.
    #[must_use]
    pub fn in_one(self) -> i64 {
        10_i64.pow(u32::from(self.decimals))
    }

    /// An amount as it is written: `12.50`, `1250`, `1.250`.
    #[must_use]
    pub fn write(self, amount: Money) -> String {
        let sign = if amount.0 < 0 { "-" } else { "" };
        let (minor, one) = (amount.0.unsigned_abs(), self.in_one().unsigned_abs());
        if self.decimals == 0 {
            return format!("{sign}{minor}");
        }
        let width = usize::from(self.decimals);
        format!("{sign}{}.{:0width$}", minor / one, minor % one)
    }

    /// Reads an amount as a person types it: `14`, `14.5`, `14,50`.
    ///
    /// # Errors
    /// [`MoneyError`] when the text is no amount, has more decimals than the currency or is too large.
    pub fn read(self, text: &str) -> Result<Money, MoneyError> {
        let text = text.trim().replace(',', ".");
        let (whole, rest) = text.split_once('.').unwrap_or((&text, ""));
        let digits = |part: &str| part.bytes().all(|b| b.is_ascii_digit());
        if whole.is_empty() || !digits(whole) || !digits(rest) {
            return Err(MoneyError::NotAnAmount);
        }
        let width = usize::from(self.decimals);
        if rest.len() > width {
            return Err(MoneyError::TooManyDecimals(self.decimals));
        }
        let whole: i64 = whole.parse().map_err(|_| MoneyError::TooLarge)?;
        let rest: i64 = format!("0{rest:0<width$}")
            .parse()
            .map_err(|_| MoneyError::NotAnAmount)?;
        let minor = whole
            .checked_mul(self.in_one())
            .and_then(|minor| minor.checked_add(rest));
        minor
            .filter(|m| *m <= 10_000_000_000)
            .map(Money)
            .ok_or(MoneyError::TooLarge)
    }
}

/// Why a typed amount is not money.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum MoneyError {
    /// Not digits with at most one decimal sign.
    #[error("write an amount such as 14 or 14.50")]
    NotAnAmount,
    /// More decimals than the currency has.
    #[error("use at most {0} decimals: the currency has no more")]
    TooManyDecimals(u8),
    /// Above a hundred million.
    #[error("that amount is too large to be meant")]
    TooLarge,
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case("14", Ok(1400))]
    #[case(" 14,5 ", Ok(1450))]
    #[case("0.05", Ok(5))]
    #[case("1.005", Err(MoneyError::TooManyDecimals(2)))]
    #[case("-3", Err(MoneyError::NotAnAmount))]
    #[case("", Err(MoneyError::NotAnAmount))]
    #[case("1e5", Err(MoneyError::NotAnAmount))]
    #[case("99999999999999999999", Err(MoneyError::TooLarge))]
    fn money_is_read_as_typed(#[case] text: &str, #[case] minor: Result<i64, MoneyError>) {
        assert_eq!(Currency::of("EUR").read(text), minor.map(Money));
    }

    #[rstest]
    #[case("EUR", 123_456, "1234.56", 2)]
    #[case("JPY", 123_456, "123456", 0)]
    #[case("KWD", 123_456, "123.456", 3)]
    #[case("KWD", -5, "-0.005", 3)]
    #[case("XYZ", 5, "0.05", 2)]
    fn each_has_its_decimals(
        #[case] code: &str,
        #[case] minor: i64,
        #[case] written: &str,
        #[case] decimals: u8,
    ) {
        let currency = Currency::of(code);
        assert_eq!(
            (currency.write(Money(minor)).as_str(), currency.decimals),
            (written, decimals)
        );
        assert_eq!(
            currency.read("1.2345"),
            Err(MoneyError::TooManyDecimals(decimals))
        );
        assert_eq!(currency.read("7"), Ok(Money(7 * currency.in_one())));
    }

    proptest! {
        /// What is written is read back.
        #[test]
        fn amounts_come_back(minor in 0..10_000_000_000_i64, code in prop_oneof!["EUR", "JPY", "KWD"]) {
            let currency = Currency::of(&code);
            prop_assert_eq!(currency.read(&currency.write(Money(minor))), Ok(Money(minor)));
        }
    }
}
