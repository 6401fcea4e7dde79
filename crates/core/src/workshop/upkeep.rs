//! What a printer costs beside its resin while it prints: electricity, film, screen, itself.

/// What a printer and what is used up on its plates cost, minor units. Nothing where nobody has said a price.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Upkeep {
    /// What it draws while it prints, W.
    pub watts: f64,
    /// An hour of the machine, its screen and its filter: price by the hours they last.
    pub hour_minor: f64,
    /// A layer of its film.
    pub film_layer_minor: f64,
    /// A print of its film; the larger of both counts, as whichever ends it sooner does.
    pub film_print_minor: f64,
    /// Gloves and towels of a plate.
    pub plate_minor: f64,
    /// Baths, for each ml that drains into them.
    pub drained_ml_minor: f64,
}

impl Upkeep {
    /// Of the machine alone, by its price and the hours it lasts.
    #[must_use]
    pub fn of_machine(watts: f64, price_minor: i64, life_h: f64) -> Self {
        Self {
            watts,
            hour_minor: price_minor as f64 / life_h.max(1.0),
            ..Self::default()
        }
    }
}
