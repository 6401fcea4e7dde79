//! Enumerations that are stored and shown as fixed words.

/// A stored word that this version does not know.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("'{word}' is not a known {kind}")]
pub struct UnknownWord {
    /// What was expected, for example `stage`.
    pub kind: &'static str,
    /// The word that was found.
    pub word: String,
}

/// Declares an enumeration with one fixed lower-case word per case, `FromStr`, `Display`,
/// `TryFrom<String>` and a list of all cases.
macro_rules! words {
    ($(#[$meta:meta])* $name:ident, $kind:literal { $($(#[$case_meta:meta])* $case:ident = $word:literal),+ $(,)? }) => {
        $(#[$meta])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
        pub enum $name { $($(#[$case_meta])* $case),+ }

        impl $name {
            /// Every case, in the order in which they are declared.
            pub const ALL: &'static [$name] = &[$($name::$case),+];

            /// The word under which the case is stored.
            #[must_use]
            pub const fn as_str(self) -> &'static str {
                match self { $($name::$case => $word),+ }
            }
        }

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str(self.as_str())
            }
        }

        impl std::str::FromStr for $name {
            type Err = $crate::words::UnknownWord;
            fn from_str(word: &str) -> Result<Self, Self::Err> {
                match word {
                    $($word => Ok($name::$case),)+
                    _ => Err($crate::words::UnknownWord { kind: $kind, word: word.to_owned() }),
                }
            }
        }

        impl TryFrom<String> for $name {
            type Error = $crate::words::UnknownWord;
            fn try_from(word: String) -> Result<Self, Self::Error> { word.parse() }
        }
    };
}
pub(crate) use words;
