//! Why copies fail, as makers tell it apart.

use crate::words::words;

words! {
    /// Causes of a lost copy, as makers tell them apart.
    FailureCause, "cause of failure" {
        /// The whole plate, or this place of it, came up empty.
        NothingOnPlate = "nothing on the plate",
        /// It stayed on the film.
        StuckToFilm = "stuck to the film",
        /// It tore off its supports.
        TornOff = "torn off its supports",
        /// Something that began in mid-air is not there.
        MissingFeature = "a feature is missing",
        /// Joints or gaps have grown together.
        Fused = "joints fused",
        /// Detail is soft or incomplete.
        SoftDetail = "soft detail",
        /// It is bent.
        Warped = "warped",
        /// It broke coming off the plate.
        BrokenAtRemoval = "broken at removal",
        /// It broke when the supports came off.
        BrokenAtSupports = "broken at the supports",
        /// White film or residue.
        Residue = "residue",
        /// A hollow that leaks or has cracked.
        Leaking = "hollow leaks",
        /// The size is wrong or it does not fit.
        WrongSize = "wrong size",
        /// The vat ran dry.
        OutOfResin = "out of resin",
        /// Skin on the resin, or floating debris.
        Debris = "debris in the vat",
        /// None of these; the note says what.
        Other = "something else",
    }
}
