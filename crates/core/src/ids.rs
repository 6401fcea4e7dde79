//! Identities of the things Wembrit keeps, one type each, so that they cannot be mixed up.

macro_rules! ids {
    ($($(#[$meta:meta])* $name:ident),+ $(,)?) => {$(
        $(#[$meta])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
        pub struct $name(pub i64);

        impl From<i64> for $name {
            fn from(raw: i64) -> Self { Self(raw) }
        }

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result { self.0.fmt(f) }
        }

        impl std::str::FromStr for $name {
            type Err = std::num::ParseIntError;
            fn from_str(text: &str) -> Result<Self, Self::Err> { text.parse().map(Self) }
        }
    )+};
}

ids! {
    /// An army or collection.
    ProjectId,
    /// A group of models of a project.
    UnitId,
    /// One kind of miniature.
    ModelId,
    /// One printed piece of a model.
    PartId,
    /// A choice between options of a model.
    ChoiceId,
    /// One option of a choice.
    OptionId,
    /// A piece of a model that is not printed.
    PieceId,
    /// A mesh file as imported.
    SculptId,
    /// How a sculpt is printed; a chain of versions.
    RecipeId,
    /// One version of a recipe.
    RecipeVersionId,
    /// A mesh that was supported elsewhere.
    PrintMeshId,
    /// A trial of a recipe.
    TrialId,
    /// One variant of a trial.
    VariantId,
    /// A printer of the workshop.
    PrinterId,
    /// A resin of the workshop.
    ResinId,
    /// The timing of one printer with one resin at one layer height; a chain of versions.
    ProcessSettingId,
    /// One version of a process setting.
    SettingVersionId,
    /// One revision of a plan.
    PlanId,
    /// A build plate's arrangement of copies.
    PlateId,
    /// One physical printed piece.
    CopyId,
    /// A numbered model being built.
    MiniatureId,
    /// A copy that no plate of this workshop printed.
    ArrivalId,
    /// One printing of a plate.
    RunId,
    /// The copies of an ended run on their way through finishing.
    BatchId,
    /// Background work of the server.
    TaskId,
}
