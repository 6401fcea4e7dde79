//! The Brackwater Levy as a table: nine units, 85 models.

use wembrit_core::army::kit::Source;

/// One part of a model.
pub(crate) struct DemoPart {
    pub(crate) name: &'static str,
    pub(crate) file: &'static str,
    pub(crate) count: u32,
    pub(crate) scale: f64,
    /// Index into the resins of the workshop.
    pub(crate) resin: usize,
    pub(crate) layer_mm: f64,
    /// The option of the model's choice that takes it; none for every model.
    pub(crate) option: Option<&'static str>,
    /// How far it leans back on planned supports, degrees; none stands as its file.
    pub(crate) leans_deg: Option<f64>,
}

/// Something a model needs that is not printed.
pub(crate) struct DemoPiece {
    pub(crate) name: &'static str,
    pub(crate) source: Source,
    pub(crate) at_hand: u32,
    pub(crate) cost_minor: i64,
    pub(crate) minutes: f64,
}

/// One model of a unit.
pub(crate) struct DemoModel {
    pub(crate) name: &'static str,
    pub(crate) quantity: u32,
    pub(crate) base_mm: f64,
    pub(crate) parts: Vec<DemoPart>,
    /// Options of its choice of weapon, with the models that take each.
    pub(crate) options: Vec<(&'static str, u32)>,
    pub(crate) pieces: Vec<DemoPiece>,
    pub(crate) carries: u32,
}

/// One unit.
pub(crate) struct DemoUnit {
    pub(crate) name: &'static str,
    pub(crate) priority: i64,
    pub(crate) models: Vec<DemoModel>,
    /// The model that carries it, already mustered.
    pub(crate) carried_by: Option<&'static str>,
}

const TOUGH: usize = 0;
const PLAIN: usize = 1;

fn part(name: &'static str, file: &'static str, count: u32) -> DemoPart {
    DemoPart {
        name,
        file,
        count,
        scale: 1.0,
        resin: TOUGH,
        layer_mm: 0.05,
        option: None,
        leans_deg: None,
    }
}

fn leaning(degrees: f64, part: DemoPart) -> DemoPart {
    DemoPart {
        leans_deg: Some(degrees),
        ..part
    }
}

fn plain(name: &'static str, file: &'static str, count: u32, scale: f64) -> DemoPart {
    DemoPart {
        scale,
        resin: PLAIN,
        ..part(name, file, count)
    }
}

fn model(name: &'static str, quantity: u32, base_mm: f64, parts: Vec<DemoPart>) -> DemoModel {
    DemoModel {
        name,
        quantity,
        base_mm,
        parts,
        options: Vec::new(),
        pieces: Vec::new(),
        carries: 0,
    }
}

fn unit(name: &'static str, priority: i64, models: Vec<DemoModel>) -> DemoUnit {
    DemoUnit {
        name,
        priority,
        models,
        carried_by: None,
    }
}

/// The first wave: printed when the demo begins.
pub(crate) fn first_wave() -> Vec<DemoUnit> {
    let piker = || {
        vec![
            part("Body", "reed_piker_body.stl", 1),
            part("Pike arm", "reed_pike_arm.stl", 1),
            plain("Base", "mud_base_25.stl", 1, 1.0),
        ]
    };
    vec![
        unit(
            "Reed-pikers",
            1,
            vec![model("Reed-piker", 18, 25.0, piker())],
        ),
        unit(
            "Lantern wardens",
            2,
            vec![model(
                "Lantern warden",
                9,
                25.0,
                vec![
                    part("Warden", "lantern_warden.stl", 1),
                    plain("Base", "mud_base_25.stl", 1, 1.0),
                ],
            )],
        ),
    ]
}

/// The second wave: in the printer and on the next plates.
pub(crate) fn second_wave() -> Vec<DemoUnit> {
    vec![unit(
        "Heron riders",
        3,
        vec![model(
            "Heron rider",
            6,
            40.0,
            vec![
                part("Heron", "war_heron.stl", 1),
                part("Rider", "heron_rider.stl", 1),
                plain("Base", "mud_base_40.stl", 1, 1.0),
            ],
        )],
    )]
}

/// The third wave: wanted, not planned.
pub(crate) fn third_wave() -> Vec<DemoUnit> {
    let foot = |file| {
        vec![
            leaning(7.5, part("Body", file, 1)),
            plain("Stone sack", "eel_cask.stl", 1, 0.35),
            plain("Base", "mud_base_25.stl", 1, 1.0),
        ]
    };
    let mut fine = part("Captain", "levy_captain.stl", 1);
    fine.layer_mm = 0.03;
    fine.leans_deg = Some(10.0);
    vec![
        unit(
            "The captain's boat",
            4,
            vec![
                model(
                    "Levy captain",
                    1,
                    28.5,
                    vec![fine, plain("Base", "mud_base_25.stl", 1, 1.14)],
                ),
                model(
                    "Banner bearer",
                    2,
                    25.0,
                    vec![
                        part("Body", "reed_piker_body.stl", 1),
                        part("Banner", "levy_banner.stl", 1),
                        plain("Base", "mud_base_25.stl", 1, 1.0),
                    ],
                ),
            ],
        ),
        unit(
            "Bog slingers",
            5,
            vec![model("Bog slinger", 14, 25.0, foot("bog_slinger.stl"))],
        ),
        sedge_pikers(),
        punt_and_eels(),
        unit(
            "Jetty",
            8,
            vec![model(
                "Jetty span",
                6,
                0.0,
                vec![plain("Span", "jetty_span.stl", 1, 1.0)],
            )],
        ),
        unit(
            "Stores and idols",
            9,
            vec![
                model(
                    "Eel cask",
                    12,
                    0.0,
                    vec![plain("Cask", "eel_cask.stl", 3, 0.8)],
                ),
                model(
                    "Marsh idol",
                    2,
                    40.0,
                    vec![
                        plain("Idol", "marsh_idol.stl", 1, 1.0),
                        plain("Base", "mud_base_40.stl", 1, 1.0),
                    ],
                ),
            ],
        ),
    ]
}

/// The largest thing of the army, and what draws it.
fn punt_and_eels() -> DemoUnit {
    unit(
        "Eel-drawn siege punt",
        7,
        vec![
            siege_punt(model(
                "Siege punt",
                1,
                0.0,
                vec![
                    // Flat it would pull too hard for any supports.
                    leaning(60.0, plain("Hull", "siege_punt_hull.stl", 1, 1.0)),
                    part("Mast", "punt_mast.stl", 1),
                    plain("Idol", "marsh_idol.stl", 1, 0.6),
                ],
            )),
            model(
                "Draught eel",
                2,
                60.0,
                vec![part("Eel", "draught_eel.stl", 1)],
            ),
        ],
    )
}

/// A choice of weapon, and a unit that is larger than what carries it.
fn sedge_pikers() -> DemoUnit {
    let with = |option, part: DemoPart| DemoPart {
        option: Some(option),
        ..part
    };
    let parts = vec![
        part("Body", "reed_piker_body.stl", 1),
        with("pike", part("Pike arm", "reed_pike_arm.stl", 1)),
        with("banner", part("Banner", "levy_banner.stl", 1)),
        plain("Base", "mud_base_25.stl", 1, 1.0),
    ];
    let piker = DemoModel {
        options: vec![("pike", 10), ("banner", 2)],
        ..model("Sedge-piker", 12, 25.0, parts)
    };
    DemoUnit {
        carried_by: Some("Siege punt"),
        ..unit("Sedge-pikers", 6, vec![piker])
    }
}

/// Not all of it is printed.
fn siege_punt(punt: DemoModel) -> DemoModel {
    let pieces = vec![
        DemoPiece {
            name: "Rope rigging",
            source: Source::ScratchBuilt,
            at_hand: 1,
            cost_minor: 60,
            minutes: 25.0,
        },
        DemoPiece {
            name: "Laser-cut deck",
            source: Source::AnotherProcess,
            at_hand: 0,
            cost_minor: 240,
            minutes: 0.0,
        },
    ];
    DemoModel {
        pieces,
        carries: 10,
        ..punt
    }
}
