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
        /// Nobody has said yet.
        Unsaid = "not said yet",
    }
}

impl FailureCause {
    /// Those somebody can name.
    pub fn named() -> impl Iterator<Item = FailureCause> {
        let all = FailureCause::ALL.iter().copied();
        all.filter(|cause| *cause != FailureCause::Unsaid)
    }

    /// Copies look so where a layer is exposed too briefly or too long.
    pub const OF_EXPOSURE: &'static [FailureCause] = &[
        FailureCause::NothingOnPlate,
        FailureCause::StuckToFilm,
        FailureCause::Fused,
        FailureCause::SoftDetail,
    ];
}

words! {
    /// Where on its way a copy was lost.
    FailedAt, "step of a loss" {
        /// While it was printed.
        Printing = "printing",
        /// Coming off the plate.
        Removal = "removal",
        /// In the wash.
        Wash = "wash",
        /// When its supports came off.
        Supports = "supports",
        /// Under the lamp.
        Cure = "cure",
        /// Later, in use or while it was built.
        Use = "use",
    }
}

/// The step at which a loss of this cause shows, as a rule.
#[must_use]
pub const fn usual_step(cause: FailureCause) -> FailedAt {
    match cause {
        FailureCause::BrokenAtRemoval => FailedAt::Removal,
        FailureCause::BrokenAtSupports => FailedAt::Supports,
        FailureCause::Residue => FailedAt::Wash,
        FailureCause::Warped => FailedAt::Cure,
        FailureCause::Leaking => FailedAt::Use,
        _ => FailedAt::Printing,
    }
}
