//! Files that attack: each is small, and would take minutes or gigabytes where something is not
//! bounded. Made here, none is kept.

use std::fmt::Write as _;
use std::io::{Cursor, Write as _};

use zip::write::SimpleFileOptions;

/// A file with its name, and whether it must be refused.
pub(crate) struct Hostile {
    pub(crate) what: &'static str,
    pub(crate) name: &'static str,
    pub(crate) bytes: Vec<u8>,
    /// It must be refused; else it may be measured as well.
    pub(crate) refused: bool,
}

const TETRAHEDRON: &str = r#"<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="10" y="0" z="0"/><vertex x="0" y="20" z="0"/><vertex x="0" y="0" z="30"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="0" v2="3" v3="2"/><triangle v1="1" v2="2" v3="3"/></triangles></mesh>"#;

fn zipped_bytes(name: &str, model: &[u8]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    zip.start_file(name, SimpleFileOptions::default()).unwrap();
    zip.write_all(model).unwrap();
    zip.finish().unwrap().into_inner()
}

fn zipped(model: &str) -> Vec<u8> {
    zipped_bytes("3D/3dmodel.model", model.as_bytes())
}

fn model(objects: &str, items: &str) -> String {
    format!("<model><resources>{objects}</resources><build>{items}</build></model>")
}

/// Text of a model in which one stretch is repeated a great many times, packed as it is made.
fn repeated(before: &str, again: &str, times: usize, after: &str) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    zip.start_file("3D/3dmodel.model", SimpleFileOptions::default())
        .unwrap();
    zip.write_all(before.as_bytes()).unwrap();
    let block = again.repeat(1000);
    for _ in 0..times / 1000 {
        zip.write_all(block.as_bytes()).unwrap();
    }
    zip.write_all(after.as_bytes()).unwrap();
    zip.finish().unwrap().into_inner()
}

/// Objects each of which places the one before twice.
fn doubling(leaf: &str, levels: usize) -> Vec<u8> {
    let mut objects = leaf.to_owned();
    for level in 1..=levels {
        let inner = format!("<component objectid=\"{}\"/>", level - 1);
        let _ = write!(
            objects,
            "<object id=\"{level}\"><components>{inner}{inner}</components></object>"
        );
    }
    zipped(&model(&objects, &format!("<item objectid=\"{levels}\"/>")))
}

/// A chain of objects, the inner ones placed first.
fn chain(long: usize) -> Vec<u8> {
    let mut objects = format!("<object id=\"0\">{TETRAHEDRON}</object>");
    let mut items = "<item objectid=\"0\"/>".to_owned();
    for level in 1..long {
        let _ = write!(
            objects,
            "<object id=\"{level}\"><components><component objectid=\"{}\"/></components></object>",
            level - 1
        );
        let _ = write!(items, "<item objectid=\"{level}\"/>");
    }
    zipped(&model(&objects, &items))
}

fn binary(triangles: &[[[f32; 3]; 3]]) -> Vec<u8> {
    let mut out = vec![0; 80];
    out.extend((triangles.len() as u32).to_le_bytes());
    for t in triangles {
        out.extend([0; 12]);
        t.iter().flatten().for_each(|c| out.extend(c.to_le_bytes()));
        out.extend([0; 2]);
    }
    out
}

fn cuboid(size: [f32; 3]) -> Vec<[[f32; 3]; 3]> {
    let at = |i: usize| -> [f32; 3] {
        std::array::from_fn(|k| if i >> k & 1 == 1 { size[k] } else { 0.0 })
    };
    let quads = [
        [0, 2, 3, 1],
        [4, 5, 7, 6],
        [0, 1, 5, 4],
        [2, 6, 7, 3],
        [0, 4, 6, 2],
        [1, 3, 7, 5],
    ];
    quads
        .iter()
        .flat_map(|q| [[q[0], q[1], q[2]], [q[0], q[2], q[3]]])
        .map(|t| t.map(at))
        .collect()
}

/// Numbers that look random and are always the same.
struct Numbers(u64);

impl Numbers {
    fn next(&mut self) -> f32 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1);
        (self.0 >> 40) as f32 / (1 << 24) as f32
    }
}

/// Triangles from anywhere to anywhere in a box.
fn soup(many: usize, size: [f32; 3]) -> Vec<u8> {
    let mut numbers = Numbers(9);
    let triangles: Vec<_> = (0..many)
        .map(|_| std::array::from_fn(|_| std::array::from_fn(|k| numbers.next() * size[k])))
        .collect();
    binary(&triangles)
}

/// Level squares above each other.
fn sheets(many: usize) -> Vec<u8> {
    let sheet = |i: usize| {
        let z = i as f32 * 1e-4;
        [
            [[0.0, 0.0, z], [90.0, 0.0, z], [90.0, 90.0, z]],
            [[0.0, 0.0, z], [90.0, 90.0, z], [0.0, 90.0, z]],
        ]
    };
    binary(&(0..many).flat_map(sheet).collect::<Vec<_>>())
}

/// A fan: every triangle shares one edge.
fn fan(many: usize) -> Vec<u8> {
    let blade = |i: usize| {
        let turn = i as f32 / many as f32 * std::f32::consts::TAU;
        [
            [0.0, 0.0, 0.0],
            [0.0, 0.0, 30.0],
            [20.0 * turn.cos(), 20.0 * turn.sin(), 15.0],
        ]
    };
    binary(&(0..many).map(blade).collect::<Vec<_>>())
}

/// Boxes in each other, every other one inside out.
fn nested(many: usize) -> Vec<u8> {
    let shell = |i: usize| {
        let shrink = i as f32 * 0.4 / many as f32;
        let side = 40.0 * (1.0 - 2.0 * shrink);
        cuboid([side; 3]).into_iter().map(move |t| {
            let t = t.map(|c| c.map(|c| c + 40.0 * shrink));
            if i % 2 == 1 { [t[0], t[2], t[1]] } else { t }
        })
    };
    binary(&(0..many).flat_map(shell).collect::<Vec<_>>())
}

/// Small boxes side by side, inside out, in a large one.
fn bubbles(many: usize) -> Vec<u8> {
    let mut all = cuboid([80.0; 3]);
    for i in 0..many {
        let at = [i % 40, i / 40 % 40, i / 1600].map(|k| 1.0 + k as f32 * 1.9);
        all.extend(cuboid([0.8; 3]).into_iter().map(|t| {
            let t = t.map(|c| std::array::from_fn(|k| c[k] + at[k]));
            [t[0], t[2], t[1]]
        }));
    }
    binary(&all)
}

fn obj(lines: impl Iterator<Item = String>) -> Vec<u8> {
    lines.collect::<Vec<_>>().join("\n").into_bytes()
}

fn claims(triangles: u32, bytes: usize) -> Vec<u8> {
    let mut out = vec![0; 80];
    out.extend(triangles.to_le_bytes());
    out.resize(bytes, 7);
    out
}

fn text(body: &str) -> Vec<u8> {
    format!("solid a\n{body}\nendsolid a\n").into_bytes()
}

fn spiked(values: [f32; 3]) -> Vec<u8> {
    let mut all = cuboid([10.0; 3]);
    all.push([[0.0; 3], [1.0, 0.0, 0.0], values]);
    binary(&all)
}

/// Every one of them.
pub(crate) fn all() -> Vec<Hostile> {
    let mut files = Vec::new();
    let mut add = |what, name, refused, bytes| {
        files.push(Hostile {
            what,
            name,
            bytes,
            refused,
        });
    };
    let empty = "<object id=\"0\"><mesh><vertices/><triangles/></mesh></object>";
    let leaf = format!("<object id=\"0\">{TETRAHEDRON}</object>");
    add(
        "empty leaf placed 2^31 times",
        "a.3mf",
        true,
        doubling(empty, 31),
    );
    add(
        "missing leaf placed 2^31 times",
        "b.3mf",
        true,
        doubling("", 31),
    );
    add("leaf placed 2^31 times", "c.3mf", true, doubling(&leaf, 31));
    add("leaf placed 2^24 times", "d.3mf", true, doubling(&leaf, 24));
    add("a chain of 9,000 objects", "e.3mf", true, chain(9_000));
    add(
        "objects beyond number",
        "f.3mf",
        true,
        repeated(
            "<model><resources>",
            "<object id=\"1\"/>",
            2_000_000,
            "</resources></model>",
        ),
    );
    add(
        "two million items",
        "g.3mf",
        true,
        repeated(
            &format!("<model><resources>{leaf}</resources><build>"),
            "<item objectid=\"0\"/>",
            2_000_000,
            "</build></model>",
        ),
    );
    add(
        "three million items of nothing",
        "h.3mf",
        true,
        repeated(
            "<model><build>",
            "<item objectid=\"9\"/>",
            3_000_000,
            "</build></model>",
        ),
    );
    add(
        "two million components",
        "i.3mf",
        true,
        repeated(
            "<model><resources><object id=\"1\"><components>",
            "<component objectid=\"0\"/>",
            2_000_000,
            "</components></object></resources></model>",
        ),
    );
    let many = (0..9_000).fold(String::new(), |mut text, i| {
        let _ = write!(
            text,
            "<object id=\"{i}\"><components><component objectid=\"{}\"/></components></object>",
            (i + 1) % 9_000
        );
        text
    });
    add(
        "a ring of 9,000 objects",
        "j.3mf",
        true,
        zipped(&model(&many, "")),
    );
    add(
        "a tag of 20 MB",
        "k.3mf",
        true,
        repeated("<model a=\"", "aaaaaaaaaa", 2_000_000, "\"></model>"),
    );
    add(
        "a comment of 20 MB",
        "l.3mf",
        true,
        repeated("<model><!--", "aaaaaaaaaa", 2_000_000, "--></model>"),
    );
    add(
        "text of 60 MB",
        "m.3mf",
        true,
        repeated("<model>", "aaaaaaaaaa", 6_000_000, "</model>"),
    );
    add(
        "nine million tiny elements",
        "n.3mf",
        true,
        repeated("<model>", "<a/>", 9_000_000, "</model>"),
    );
    add(
        "elements nested 100,000 deep",
        "o.3mf",
        true,
        zipped(&"<a>".repeat(100_000)),
    );
    add(
        "blanks of 60 MB",
        "p.3mf",
        true,
        repeated("", "          ", 6_000_000, ""),
    );
    add(
        "zeros of 60 MB",
        "q.3mf",
        true,
        repeated("", "\0\0\0\0\0\0\0\0\0\0", 6_000_000, ""),
    );
    add(
        "two million corners",
        "r.3mf",
        true,
        repeated(
            "<model><resources><object id=\"1\"><mesh><vertices>",
            "<vertex x=\"1\" y=\"2\" z=\"3\"/>",
            2_000_000,
            "</vertices></mesh></object></resources></model>",
        ),
    );
    add(
        "broken triangles beyond number",
        "s.3mf",
        true,
        repeated(
            "<model><resources><object id=\"1\"><mesh><triangles>",
            "<triangle v1=\"x\"/>",
            900_000,
            "</triangles></mesh></object></resources></model>",
        ),
    );
    add(
        "an attribute 90,000 times",
        "t.3mf",
        true,
        zipped(&format!(
            "<model><resources><object {}/></resources></model>",
            "a=\"b\" ".repeat(15_000)
        )),
    );
    add(
        "declared entities",
        "u.3mf",
        true,
        zipped("<!DOCTYPE a [<!ENTITY b \"bbbb\">]><model>&b;</model>"),
    );
    add(
        "numbers too large",
        "v.3mf",
        true,
        zipped(&model(
            &leaf.replace("\"10\"", "\"1e400\""),
            "<item objectid=\"0\"/>",
        )),
    );
    add(
        "a transform of 1e300",
        "w.3mf",
        true,
        zipped(&model(
            &leaf,
            "<item objectid=\"0\" transform=\"1e300 0 0 0 1e300 0 0 0 1e300 0 0 0\"/>",
        )),
    );
    add(
        "a transform of zeros",
        "x.3mf",
        true,
        zipped(&model(
            &leaf,
            "<item objectid=\"0\" transform=\"0 0 0 0 0 0 0 0 0 0 0 0\"/>",
        )),
    );
    add(
        "no transform at all",
        "y.3mf",
        true,
        zipped(&model(&leaf, "<item objectid=\"0\" transform=\"\"/>")),
    );
    add(
        "an object in itself",
        "z.3mf",
        true,
        zipped(&model(
            "<object id=\"1\"><components><component objectid=\"1\"/></components></object>",
            "<item objectid=\"1\"/>",
        )),
    );
    add(
        "no model",
        "aa.3mf",
        true,
        zipped_bytes("readme.txt", b"nothing"),
    );
    add(
        "a zip in a zip",
        "ab.3mf",
        true,
        zipped_bytes("3D/3dmodel.model", &zipped(&model(&leaf, ""))),
    );
    add("cut in the middle", "ac.3mf", true, {
        let mut z = zipped(&model(&leaf, "<item objectid=\"0\"/>"));
        z.truncate(z.len() / 2);
        z
    });
    add(
        "a zip's end alone",
        "ad.3mf",
        true,
        [b"PK\x05\x06".as_slice(), &[0xff; 18]].concat(),
    );
    add(
        "a name of 60,000 letters",
        "ae.3mf",
        true,
        zipped_bytes(&"n".repeat(60_000), b"x"),
    );
    add(
        "an index of four billion",
        "af.3mf",
        true,
        zipped(&model(
            &leaf.replace("v2=\"2\"", "v2=\"4294967295\""),
            "<item objectid=\"0\"/>",
        )),
    );
    add(
        "an index below nothing",
        "ag.3mf",
        true,
        zipped(&model(
            &leaf.replace("v2=\"2\"", "v2=\"-1\""),
            "<item objectid=\"0\"/>",
        )),
    );
    add(
        "a box of 1e30",
        "ba.stl",
        true,
        binary(&cuboid([1e30, 1e30, 10.0])),
    );
    add("a box of 1e38", "bb.stl", true, binary(&cuboid([3e38; 3])));
    add(
        "a box of a kilometre, flat",
        "bc.stl",
        true,
        binary(&cuboid([1e6, 1e6, 10.0])),
    );
    add(
        "a needle of a kilometre",
        "bd.stl",
        true,
        binary(&cuboid([1.0, 1.0, 1e6])),
    );
    add(
        "a cube of a metre",
        "be.stl",
        false,
        binary(&cuboid([1000.0; 3])),
    );
    add(
        "a tile of 4 m",
        "bf.stl",
        false,
        binary(&cuboid([4000.0, 4000.0, 3.0])),
    );
    add(
        "a post of 1.9 m",
        "bg.stl",
        false,
        binary(&cuboid([30.0, 30.0, 1900.0])),
    );
    add("a grain", "bh.stl", false, binary(&cuboid([1e-20; 3])));
    add(
        "a sheet without thickness",
        "bi.stl",
        true,
        binary(&cuboid([10.0, 10.0, 0.0])),
    );
    add(
        "a soup of 18,000 triangles",
        "bj.stl",
        true,
        soup(18_000, [60.0; 3]),
    );
    add(
        "a flat soup",
        "bk.stl",
        true,
        soup(18_000, [200.0, 200.0, 0.8]),
    );
    add(
        "a tall soup",
        "bl.stl",
        true,
        soup(18_000, [5.0, 5.0, 400.0]),
    );
    add(
        "a soup as fine as dust",
        "bm.stl",
        true,
        soup(18_000, [1e-3; 3]),
    );
    add(
        "9,000 sheets over each other",
        "bn.stl",
        true,
        sheets(9_000),
    );
    add("18,000 blades on one edge", "bo.stl", true, fan(18_000));
    add("800 boxes in each other", "bp.stl", false, nested(800));
    add("1,500 bubbles in a box", "bq.stl", false, bubbles(1_500));
    add(
        "one triangle 18,000 times",
        "br.stl",
        true,
        binary(&[[[0.0; 3], [9.0, 0.0, 1.0], [0.0, 9.0, 5.0]]; 18_000]),
    );
    add(
        "all of it NaN",
        "bs.stl",
        true,
        binary(&[[[f32::NAN; 3]; 3]; 9_000]),
    );
    add(
        "all of it without area",
        "bt.stl",
        true,
        binary(&[[[1.0; 3]; 3]; 9_000]),
    );
    add("a spike to 1e20", "bu.stl", false, spiked([1e20, 5.0, 5.0]));
    add(
        "a spike to the largest number",
        "bv.stl",
        false,
        spiked([f32::MAX, f32::MIN, f32::MAX]),
    );
    add(
        "a spike to infinity",
        "bw.stl",
        false,
        spiked([f32::INFINITY, 5.0, 5.0]),
    );
    add("claims four billion", "bx.stl", true, claims(u32::MAX, 900));
    add(
        "claims 21 million",
        "by.stl",
        true,
        claims(21_000_000, 9_000),
    );
    add("claims none", "bz.stl", true, claims(0, 9_000));
    add(
        "a name without an end",
        "ca.stl",
        true,
        [b"solid ".as_slice(), &[b'a'; 900_000]].concat(),
    );
    add(
        "facets without an end",
        "cb.stl",
        true,
        text(&"facet normal 0 0 0 ".repeat(40_000)),
    );
    add(
        "corners without an end",
        "cc.stl",
        true,
        text(&format!(
            "facet normal 0 0 0 outer loop {}",
            "vertex 1 2 3 ".repeat(60_000)
        )),
    );
    add(
        "solids without an end",
        "cd.stl",
        true,
        [
            b"solid facet normal ".as_slice(),
            &b"solid ".repeat(100_000),
        ]
        .concat(),
    );
    add(
        "a number of 900,000 digits",
        "ce.stl",
        true,
        text(&format!(
            "facet normal 0 0 0 outer loop vertex {} 0 0",
            "9".repeat(900_000)
        )),
    );
    add(
        "one face of 100,000 corners",
        "da.obj",
        true,
        obj((0..100)
            .map(|i| format!("v {i} {} 0", i * i))
            .chain([format!("f {}", "1 2 3 ".repeat(30_000))])),
    );
    add(
        "faults beyond number",
        "db.obj",
        true,
        obj((0..90_000).map(|_| "f 9 9 9".to_owned())),
    );
    add(
        "a line that goes on and on",
        "dc.obj",
        true,
        obj((0..200_000).map(|_| "v \\".to_owned())),
    );
    add(
        "indices far below nothing",
        "dd.obj",
        true,
        obj((0..100)
            .map(|i| format!("v {i} 0 0"))
            .chain(["f -1 -2 -9223372036854775808".to_owned()])),
    );
    add(
        "fans of one corner",
        "de.obj",
        true,
        obj((0..4)
            .map(|i| format!("v {i} {} {i}", i * i))
            .chain((0..40_000).map(|_| "f 1 2 3 1 2 3 1".to_owned()))),
    );
    add(
        "corners of 1e39",
        "df.obj",
        true,
        obj(["v 1e39 0 0", "v 0 1e39 0", "v 0 0 1e39", "f 1 2 3"]
            .into_iter()
            .map(str::to_owned)),
    );
    files
}
