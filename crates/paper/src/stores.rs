//! Bottles and vats with what is in them.

use svg::Document;
use svg::node::element::{Group, Rectangle};

use crate::ink::{line, round, words};

/// A bottle or a vat.
#[derive(Debug, Clone, PartialEq)]
pub struct Vessel {
    /// What stands under it.
    pub name: String,
    /// And below that.
    pub of: String,
    /// What is in it, ml.
    pub holds_ml: f64,
    /// What it takes, ml.
    pub most_ml: f64,
    /// What it has to hold at least, ml; nothing for bottles.
    pub least_ml: Option<f64>,
}

const WIDTH: f64 = 900.0;
const TALL: f64 = 120.0;
const TOP: f64 = 16.0;
const BOTTLE: f64 = 46.0;
const VAT: [f64; 2] = [110.0, 44.0];
const APART: f64 = 42.0;

/// Bottles and vats side by side, each as full as it is; rows of them where there are many.
#[must_use]
pub fn draw_vessels(vessels: &[Vessel]) -> String {
    let wide = |v: &Vessel| if v.least_ml.is_some() { VAT[0] } else { BOTTLE };
    let row = TOP + TALL + 52.0;
    let (mut x, mut rows) = (APART / 2.0, 0.0);
    let mut all = Group::new();
    for vessel in vessels {
        let w = wide(vessel);
        if x + w + APART / 2.0 > WIDTH {
            x = APART / 2.0;
            rows += 1.0;
        }
        all = all.add(draw(vessel, [x, rows * row + TOP + TALL], w));
        x += w + APART;
    }
    Document::new()
        .set("viewBox", (0, 0, round(WIDTH), round((rows + 1.0) * row)))
        .set("class", "vessels")
        .set("role", "img")
        .set("aria-label", "Bottles and vats, each as full as it is")
        .add(all)
        .to_string()
}

fn draw(v: &Vessel, [x, floor]: [f64; 2], wide: f64) -> Group {
    let tall = if v.least_ml.is_some() { VAT[1] } else { TALL };
    let share = (v.holds_ml / v.most_ml.max(1e-9)).clamp(0.0, 1.0);
    let block = |height: f64, class: &str| {
        Rectangle::new()
            .set("class", class)
            .set("x", round(x))
            .set("y", round(floor - height))
            .set("width", round(wide))
            .set("height", round(height))
    };
    let mut group = Group::new();
    if v.least_ml.is_none() {
        let neck = Rectangle::new()
            .set("class", "vessel")
            .set("x", round(x + wide * 0.32))
            .set("y", round(floor - tall - 10.0))
            .set("width", round(wide * 0.36))
            .set("height", 10);
        group = group.add(neck);
    }
    group = group
        .add(block(tall, "vessel"))
        .add(block(tall * share, "liquid"));
    if let Some(least) = v.least_ml {
        let y = floor - tall * (least / v.most_ml.max(1e-9)).clamp(0.0, 1.0);
        group = group.add(line([x - 4.0, y], [x + wide + 4.0, y], "sets-hours"));
    }
    let middle = x + wide / 2.0;
    group
        .add(words(
            &format!("{:.0} ml", v.holds_ml),
            [middle, floor + 15.0],
            "ruler middle",
        ))
        .add(words(&v.name, [middle, floor + 30.0], "name middle"))
        .add(words(&v.of, [middle, floor + 44.0], "of middle"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn many_vessels_stand_in_rows() {
        let bottle = |n: usize| Vessel {
            name: format!("bottle {n}"),
            of: "Slate tough".into(),
            holds_ml: 250.0,
            most_ml: 500.0,
            least_ml: None,
        };
        let vat = Vessel {
            least_ml: Some(60.0),
            ..bottle(0)
        };
        let few = draw_vessels(&[bottle(1), vat]);
        assert_eq!(
            (
                few.matches("liquid").count(),
                few.matches("sets-hours").count()
            ),
            (2, 1)
        );
        assert!(few.contains("height=\"60\""), "half of a bottle");
        let many: Vec<Vessel> = (0..40).map(bottle).collect();
        assert!(draw_vessels(&many).len() > few.len());
    }
}
