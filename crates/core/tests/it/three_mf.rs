//! 3MF documents written out by hand: units, transforms, components, and what is refused.
//!
//! Source: 3MF Core Specification 1.3: unit of a model in chapter 3.4, transforms in 3.3 (row
//! vectors: twelve numbers, three rows of the linear map and the shift), components in 4.2.

use std::fmt::Write as _;
use std::io::{Cursor, Write as _};

use glam::{DAffine3, DMat3, DVec3};
use proptest::prelude::*;
use rstest::rstest;
use wembrit_core::mesh::{Mesh, ReadError, measure_mesh, read_mesh};
use zip::write::SimpleFileOptions;

/// A tetrahedron on the axes with legs of 1, 2 and 3: volume 1·2·3 / 6 = 1.
const TETRAHEDRON: &str = r#"<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="2" z="0"/><vertex x="0" y="0" z="3"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="0" v2="3" v3="2"/><triangle v1="1" v2="2" v3="3"/></triangles></mesh>"#;

fn zipped(name: &str, model: &str) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    zip.start_file(name, SimpleFileOptions::default()).unwrap();
    zip.write_all(model.as_bytes()).unwrap();
    zip.finish().unwrap().into_inner()
}

fn read(model: &str) -> Result<Mesh, ReadError> {
    read_mesh(&zipped("3D/3dmodel.model", model), "a.3mf")
}

fn model(unit: &str, objects: &str, items: &str) -> String {
    format!("<model{unit}><resources>{objects}</resources><build>{items}</build></model>")
}

fn tetrahedron(unit: &str, items: &str) -> String {
    let object = format!("<object id=\"1\">{TETRAHEDRON}</object>");
    model(unit, &object, items)
}

fn transform(numbers: &[f64; 12]) -> String {
    let words: Vec<String> = numbers.iter().map(ToString::to_string).collect();
    format!(" transform=\"{}\"", words.join(" "))
}

fn affine(t: &[f64; 12]) -> DAffine3 {
    let row = |i: usize| DVec3::new(t[i], t[i + 1], t[i + 2]);
    DAffine3::from_mat3_translation(DMat3::from_cols(row(0), row(3), row(6)), row(9))
}

#[rstest]
#[case::not_named("", 1.0)]
#[case(" unit=\"micron\"", 0.001)]
#[case(" unit=\"millimeter\"", 1.0)]
#[case(" unit=\"centimeter\"", 10.0)]
#[case(" unit=\"inch\"", 25.4)]
#[case(" unit=\"foot\"", 304.8)]
#[case(" unit=\"meter\"", 1000.0)]
fn a_model_is_read_in_millimetres(#[case] unit: &str, #[case] mm: f64) {
    let read = read(&tetrahedron(unit, "<item objectid=\"1\"/>")).unwrap();
    let (_, high) = read.bounds();
    for (found, legs) in high.into_iter().zip([1.0, 2.0, 3.0]) {
        assert!((found / (legs * mm) - 1.0).abs() < 1e-6, "{found}");
    }
}

/// A mirroring transform turns triangles inside out; they are turned back.
#[rstest]
#[case::as_it_is([1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0], 1.0)]
#[case::mirrored([-1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0], 1.0)]
#[case::twice_as_large([2.0, 0.0, 0.0, 0.0, 2.0, 0.0, 0.0, 0.0, 2.0, 5.0, 0.0, 0.0], 8.0)]
#[case::sheared([1.0, 0.0, 0.0, 0.7, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0], 1.0)]
fn a_transform_keeps_the_outside_outside(#[case] to: [f64; 12], #[case] volume_mm3: f64) {
    let item = format!("<item objectid=\"1\"{}/>", transform(&to));
    let facts = measure_mesh(&read(&tetrahedron("", &item)).unwrap());
    assert!(
        (facts.volume_mm3 - volume_mm3).abs() < 1e-5,
        "{}",
        facts.volume_mm3
    );
    assert!(facts.watertight() && facts.inverted_shells == 0);
}

proptest! {
    /// A component inside an item: first its own transform, then that of the item, as two affine
    /// maps of a general-purpose library do it one after the other.
    #[test]
    fn transforms_are_applied_from_the_inside_out(
        inner in prop::array::uniform12(-2.0..2.0f64),
        outer in prop::array::uniform12(-2.0..2.0f64),
    ) {
        let both = affine(&outer) * affine(&inner);
        // A flat image is refused, and is no matter here.
        prop_assume!(both.matrix3.determinant().abs() > 0.05);
        let objects = format!(
            "<object id=\"1\">{TETRAHEDRON}</object><object id=\"2\"><components><component objectid=\"1\"{}/></components></object>",
            transform(&inner)
        );
        let item = format!("<item objectid=\"2\"{}/>", transform(&outer));
        let found = read(&model("", &objects, &item)).unwrap();
        for corner in [DVec3::ZERO, DVec3::X, DVec3::Y * 2.0, DVec3::Z * 3.0] {
            let at = both.transform_point3(corner);
            let near = |c: &&[f32; 3]| DVec3::from_array(c.map(f64::from)).distance(at) < 1e-4;
            prop_assert!(found.corners().iter().any(|c| near(&c)), "{at} in {:?}", found.corners());
        }
        let volume = measure_mesh(&found).volume_mm3;
        prop_assert!((volume / both.matrix3.determinant().abs() - 1.0).abs() < 1e-2, "{volume}");
    }
}

/// Without items everything that no other object uses is there, once.
#[test]
fn a_model_without_a_build_is_all_of_its_objects() {
    let objects = format!(
        "<object id=\"1\">{TETRAHEDRON}</object><object id=\"2\"><components><component objectid=\"1\" transform=\"1 0 0 0 1 0 0 0 1 9 0 0\"/></components></object>"
    );
    let found = read(&model("", &objects, "")).unwrap();
    assert_eq!(found.triangles().len(), 4);
    assert_eq!(found.bounds().0, [9.0, 0.0, 0.0]);
}

/// The model may have another name, and stand anywhere in the archive.
#[rstest]
#[case("3D/3dmodel.model", true)]
#[case("/3D/3DMODEL.MODEL", true)]
#[case("elsewhere/part.model", true)]
#[case("3D/3dmodel.xml", false)]
fn the_model_is_looked_for_in_the_archive(#[case] name: &str, #[case] found: bool) {
    let bytes = zipped(name, &tetrahedron("", "<item objectid=\"1\"/>"));
    let read = read_mesh(&bytes, "a.3mf");
    assert_eq!(read.is_ok(), found, "{read:?}");
}

/// Objects that use each other twice over, thirty deep: 2^30 placements from two thousand bytes.
fn doubling(innermost: &str) -> String {
    let mut objects = format!("<object id=\"0\">{innermost}</object>");
    for id in 1..31 {
        let twice = format!("<component objectid=\"{}\"/>", id - 1).repeat(2);
        let _ = write!(
            objects,
            "<object id=\"{id}\"><components>{twice}</components></object>"
        );
    }
    model("", &objects, "<item objectid=\"30\"/>")
}

fn with_triangle(corners: &str) -> String {
    tetrahedron("", "<item objectid=\"1\"/>").replace(r#"v1="1" v2="2" v3="3""#, corners)
}

#[rstest]
#[case::entities("<!DOCTYPE model [<!ENTITY a \"aaaa\">]><model/>".into(), "declares entities")]
#[case::broken_off("<model><resources><object".into(), "not well formed")]
#[case::too_deep(format!("<model>{}", "<a>".repeat(40)), "nested too deep")]
#[case::no_such_object(
    model("", "", "<item objectid=\"7\"/>"),
    "object 7 is used but not there"
)]
#[case::of_itself(
    model(
        "",
        "<object id=\"1\"><components><component objectid=\"1\"/></components></object>",
        "<item objectid=\"1\"/>"
    ),
    "object 1 contains itself"
)]
#[case::doubling(doubling(TETRAHEDRON), "repeat without end")]
#[case::doubling_nothing(doubling(""), "no usable triangle")]
#[case::missing_corner(
    with_triangle(r#"v1="1" v2="2" v3="4""#),
    "1 triangles with a corner that is not there"
)]
#[case::negative_corner(
    with_triangle(r#"v1="1" v2="2" v3="-1""#),
    "a triangle is not three corners"
)]
#[case::two_corners(with_triangle(r#"v1="1" v2="2""#), "a triangle is not three corners")]
#[case::no_number(tetrahedron("", "<item objectid=\"1\"/>").replace("x=\"1\"", "x=\"one\""), "a corner is not three numbers")]
#[case::short_transform(
    tetrahedron("", "<item objectid=\"1\" transform=\"1 0 0\"/>"),
    "unreadable transform"
)]
#[case::endless_transform(
    tetrahedron("", "<item objectid=\"1\" transform=\"inf 0 0 0 1 0 0 0 1 0 0 0\"/>"),
    "unreadable transform"
)]
#[case::flat(
    tetrahedron("", "<item objectid=\"1\" transform=\"0 0 0 0 0 0 0 0 0 0 0 0\"/>"),
    "no usable triangle"
)]
#[case::nothing(model("", "", ""), "no usable triangle")]
fn what_no_slicer_could_use_is_refused_in_words(#[case] model: String, #[case] words: &str) {
    let error = read(&model).expect_err("it is of no use").to_string();
    assert!(error.contains(words), "{error}");
    assert!(!error.contains('\n') && error.len() < 400, "{error}");
}
