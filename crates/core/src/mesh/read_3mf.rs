//! 3MF: a zip with an XML model of objects, components and build items. Read as a stream with
//! bounds on everything; a document that declares entities is refused.
//!
//! Source: 3MF Core Specification 1.3, chapters 3 to 5.

use std::collections::{HashMap, HashSet};
use std::io::{BufRead, BufReader, Cursor, Read};
use std::str::FromStr;

use quick_xml::events::{BytesStart, Event};
use quick_xml::reader::Reader;

use super::faults::Faults;
use super::read_error::MAX_TRIANGLES;
use super::{Mesh, ReadError};
use crate::watch::{Ticks, Watch};

/// Bytes of the model part at most, unpacked.
const MOST_BYTES: u64 = 1_500_000_000;
/// Bytes that any file may unpack to.
const FREE_BYTES: u64 = 16_000_000;
/// How many times as large as the file its model may be beyond these: text of a mesh packs to a
/// tenth.
const MOST_RATIO: u64 = 40;
/// Bytes of one tag at most.
const MOST_TAG: usize = 100_000;
/// Elements at most beside corners and triangles.
const MOST_OTHERS: u64 = 500_000;
/// Elements inside each other at most.
const MOST_DEPTH: usize = 32;
/// Objects at most.
const MOST_OBJECTS: usize = 10_000;
/// Items and components at most, as they are written.
const MOST_USES: usize = 100_000;
/// Times an object is placed at most, by items and by other objects.
const MOST_PLACED: u64 = 1_000_000;

/// A transform as 3MF writes it: three rows of a linear map, and a shift.
type Transform = [f64; 12];

const UPRIGHT: Transform = [1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0];

#[derive(Debug, Default)]
struct Object {
    corners: Vec<[f32; 3]>,
    triangles: Vec<[u32; 3]>,
    components: Vec<(String, Transform)>,
}

#[derive(Debug, Default)]
struct Model {
    mm: f64,
    objects: HashMap<String, Object>,
    items: Vec<(String, Transform)>,
    uses: usize,
}

/// Reads a 3MF file; every object on the build plate, in mm.
///
/// # Errors
/// [`ReadError::NotZip`] and [`ReadError::Faulty`].
pub(super) fn read_3mf(bytes: &[u8], watch: &dyn Watch) -> Result<Mesh, ReadError> {
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).map_err(|_| ReadError::NotZip)?;
    let name =
        model_part(&zip).ok_or_else(|| ReadError::Faulty("there is no 3D model in it".into()))?;
    let part = zip.by_name(&name).map_err(|_| ReadError::NotZip)?;
    // What the archive says of itself may be a lie: the bytes are counted as they come.
    let packed = bytes.len() as u64;
    let most = MOST_BYTES.min(FREE_BYTES + MOST_RATIO * packed);
    let bomb = || {
        ReadError::Faulty(format!(
            "its model unpacks to more than {} times the file, as no mesh does",
            most / packed.max(1)
        ))
    };
    if part.size() > most {
        return Err(bomb());
    }
    let mut faults = Faults::default();
    let mut text = Tags::new(BufReader::new(part.take(most + 1)));
    let model = parse(&mut text, &mut faults, watch);
    if text.read > most {
        return Err(bomb());
    }
    let model = model?;
    if let Some(faults) = faults.end() {
        return Err(ReadError::Faulty(faults));
    }
    build(&model)
}

/// Text that is read tag by tag: one tag without an end would fill the memory.
struct Tags<R> {
    text: R,
    /// Bytes of the tag that is being read.
    tag: usize,
    /// All bytes so far.
    read: u64,
}

impl<R> Tags<R> {
    fn new(text: R) -> Self {
        Self {
            text,
            tag: 0,
            read: 0,
        }
    }
}

impl<R: BufRead> Read for Tags<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let many = self.text.read(into)?;
        self.read += many as u64;
        Ok(many)
    }
}

impl<R: BufRead> BufRead for Tags<R> {
    fn fill_buf(&mut self) -> std::io::Result<&[u8]> {
        if self.tag > MOST_TAG {
            return Err(std::io::Error::other("one tag is too long"));
        }
        self.text.fill_buf()
    }

    fn consume(&mut self, many: usize) {
        self.tag += many;
        self.read += many as u64;
        self.text.consume(many);
    }
}

fn model_part(zip: &zip::ZipArchive<Cursor<&[u8]>>) -> Option<String> {
    let names: Vec<String> = zip
        .file_names()
        .filter_map(|n| n.ok().map(|n| n.into_owned()))
        .collect();
    let models = || {
        names
            .iter()
            .filter(|n| n.to_ascii_lowercase().ends_with(".model"))
    };
    let usual = models().find(|n| {
        n.trim_start_matches('/')
            .eq_ignore_ascii_case("3d/3dmodel.model")
    });
    usual.or_else(|| models().next()).cloned()
}

fn broken(what: &str) -> ReadError {
    ReadError::Faulty(format!("its XML cannot be read: {what}"))
}

fn parse<R: BufRead>(
    text: &mut Tags<R>,
    faults: &mut Faults,
    watch: &dyn Watch,
) -> Result<Model, ReadError> {
    let mut reader = Reader::from_reader(text);
    let mut reading = Reading::default();
    reading.model.mm = 1.0;
    let (mut buffer, mut depth) = (Vec::new(), 0_usize);
    let mut ticks = Ticks::new(watch);
    loop {
        if ticks.stopped() {
            return Err(ReadError::Stopped);
        }
        reader.get_mut().tag = 0;
        let event = reader
            .read_event_into(&mut buffer)
            .map_err(|_| broken("it is not well formed"))?;
        match event {
            Event::Eof => break,
            Event::DocType(_) => return Err(broken("it declares entities, which no model needs")),
            Event::End(_) => depth = depth.saturating_sub(1),
            Event::Empty(element) => reading.element(&element, faults)?,
            Event::Start(element) => {
                depth += 1;
                if depth > MOST_DEPTH {
                    return Err(broken("its elements are nested too deep"));
                }
                reading.element(&element, faults)?;
            }
            _ => {}
        }
        buffer.clear();
        if faults.enough() {
            break;
        }
    }
    note_missing_corners(&reading.model, faults);
    Ok(reading.model)
}

/// A model as far as it was read.
#[derive(Debug, Default)]
struct Reading {
    model: Model,
    /// The object whose elements are being read.
    open: Option<String>,
    corners: u64,
    triangles: u64,
    others: u64,
}

impl Reading {
    fn element(&mut self, element: &BytesStart<'_>, faults: &mut Faults) -> Result<(), ReadError> {
        let counted = match element.local_name().as_ref() {
            "vertex" => &mut self.corners,
            "triangle" => &mut self.triangles,
            _ => &mut self.others,
        };
        *counted += 1;
        if self.others > MOST_OTHERS {
            return Err(broken("it has far more elements than a mesh needs"));
        }
        if self.corners.max(self.triangles) > MAX_TRIANGLES {
            return Err(ReadError::TooMany {
                triangles: self.corners.max(self.triangles),
            });
        }
        match element.local_name().as_ref() {
            "model" => self.model.mm = unit_mm(&attribute(element, "unit").unwrap_or_default()),
            "object" => {
                if self.model.objects.len() >= MOST_OBJECTS {
                    return Err(broken("it has too many objects"));
                }
                let id = attribute(element, "id").unwrap_or_default();
                self.model.objects.insert(id.clone(), Object::default());
                self.open = Some(id);
            }
            "vertex" => match (three(element, ["x", "y", "z"]), self.object()) {
                (Some(corner), Some(object)) => object.corners.push(corner),
                _ => faults.note(|| "a corner is not three numbers".into()),
            },
            "triangle" => match (three(element, ["v1", "v2", "v3"]), self.object()) {
                (Some(corners), Some(object)) => object.triangles.push(corners),
                _ => faults.note(|| "a triangle is not three corners".into()),
            },
            "component" => {
                self.use_one()?;
                if let (Some(to), Some(object)) = (placed(element, faults), self.object()) {
                    object.components.push(to);
                }
            }
            "item" => {
                self.use_one()?;
                self.model.items.extend(placed(element, faults));
            }
            _ => {}
        }
        Ok(())
    }

    fn use_one(&mut self) -> Result<(), ReadError> {
        self.model.uses += 1;
        if self.model.uses > MOST_USES {
            return Err(broken(
                "it places objects more often than a build plate holds",
            ));
        }
        Ok(())
    }

    fn object(&mut self) -> Option<&mut Object> {
        self.model.objects.get_mut(self.open.as_ref()?)
    }
}

/// Three attributes as numbers; nothing when one is missing or none.
fn three<T: FromStr>(element: &BytesStart<'_>, names: [&str; 3]) -> Option<[T; 3]> {
    let [a, b, c] = names.map(|n| attribute(element, n).and_then(|t| t.trim().parse().ok()));
    Some([a?, b?, c?])
}

fn note_missing_corners(model: &Model, faults: &mut Faults) {
    for (id, object) in &model.objects {
        let corners = object.corners.len();
        let missing = |t: &&[u32; 3]| t.iter().any(|i| *i as usize >= corners);
        let outside = object.triangles.iter().filter(missing).count();
        if outside > 0 {
            faults.note(|| {
                format!("object {id} has {outside} triangles with a corner that is not there")
            });
        }
    }
}

fn attribute(element: &BytesStart<'_>, name: &str) -> Option<String> {
    let found = element
        .attributes()
        .flatten()
        .find(|a| a.key.local_name().as_ref() == name)?;
    Some(found.value.into_owned())
}

/// Millimetres in a unit of the model; the specification's default is the millimetre.
fn unit_mm(unit: &str) -> f64 {
    match unit {
        "micron" => 0.001,
        "centimeter" => 10.0,
        "inch" => 25.4,
        "foot" => 304.8,
        "meter" => 1000.0,
        _ => 1.0,
    }
}

/// The object that a component or an item places, and where.
fn placed(element: &BytesStart<'_>, faults: &mut Faults) -> Option<(String, Transform)> {
    let id = attribute(element, "objectid");
    let transform = match attribute(element, "transform") {
        None => Some(UPRIGHT),
        Some(text) => {
            let numbers: Vec<f64> = text
                .split_ascii_whitespace()
                .filter_map(|n| n.parse().ok())
                .collect();
            Transform::try_from(numbers)
                .ok()
                .filter(|t| t.iter().all(|n| n.is_finite()))
        }
    };
    if id.is_none() || transform.is_none() {
        faults.note(|| "a component or item has no object or an unreadable transform".into());
    }
    id.zip(transform)
}

/// First the inner transform, then the outer one.
fn then(inner: &Transform, outer: &Transform) -> Transform {
    let mut both = [0.0; 12];
    for row in 0..4 {
        for column in 0..3 {
            let product: f64 = (0..3)
                .map(|k| inner[row * 3 + k] * outer[k * 3 + column])
                .sum();
            both[row * 3 + column] = product + if row == 3 { outer[9 + column] } else { 0.0 };
        }
    }
    both
}

fn determinant(t: &Transform) -> f64 {
    t[0] * (t[4] * t[8] - t[5] * t[7]) - t[1] * (t[3] * t[8] - t[5] * t[6])
        + t[2] * (t[3] * t[7] - t[4] * t[6])
}

fn build(model: &Model) -> Result<Mesh, ReadError> {
    // A model without a build is taken as all of its objects that no other one uses.
    let components = model.objects.values().flat_map(|o| &o.components);
    let used: HashSet<&str> = components.map(|c| c.0.as_str()).collect();
    let mut alone: Vec<(String, Transform)> = model
        .objects
        .keys()
        .filter(|id| !used.contains(id.as_str()))
        .map(|id| (id.clone(), UPRIGHT))
        .collect();
    alone.sort_by(|a, b| a.0.cmp(&b.0));
    let empty_build = model.items.is_empty();
    let items = if empty_build { &alone } else { &model.items };
    let mut reckoning = Reckoning {
        model,
        known: HashMap::new(),
        open: Vec::new(),
        faults: Faults::default(),
    };
    let mut all = Load::default();
    for (id, _) in items {
        all = all.and(reckoning.of(id));
    }
    if let Some(faults) = reckoning.faults.end() {
        return Err(ReadError::Faulty(faults));
    }
    if all.depth > MOST_DEPTH {
        return Err(broken("its components are nested too deep"));
    }
    if all.placed > MOST_PLACED {
        return Err(broken("its components repeat without end"));
    }
    if all.triangles > MAX_TRIANGLES {
        return Err(ReadError::TooMany {
            triangles: all.triangles,
        });
    }
    let mut building = Building {
        model,
        loads: reckoning.known,
        loose: Vec::with_capacity(all.triangles as usize),
    };
    for (id, transform) in items {
        building.place(id, transform);
    }
    let mut mesh = Mesh::weld(building.loose);
    if mesh.triangles.is_empty() {
        return Err(ReadError::NoTriangles {
            dropped: mesh.dropped,
        });
    }
    if empty_build {
        mesh.remark = Some("its build is empty: all of its objects are taken");
    }
    Ok(mesh)
}

/// What placing an object once takes, all that it contains included.
#[derive(Debug, Clone, Copy, Default)]
struct Load {
    triangles: u64,
    placed: u64,
    /// How deep objects lie in each other.
    depth: usize,
}

impl Load {
    fn and(self, other: Self) -> Self {
        Self {
            triangles: self.triangles.saturating_add(other.triangles),
            placed: self.placed.saturating_add(other.placed),
            depth: self.depth.max(other.depth),
        }
    }
}

/// Reckons from the inside out what objects take, each once: a few that use each other twice over
/// are billions of placements.
struct Reckoning<'a> {
    model: &'a Model,
    known: HashMap<&'a str, Load>,
    /// The objects that are being reckoned, from the item inward.
    open: Vec<&'a str>,
    faults: Faults,
}

impl<'a> Reckoning<'a> {
    fn of(&mut self, id: &'a str) -> Load {
        if let Some(load) = self.known.get(id) {
            return *load;
        }
        let Some(object) = self.model.objects.get(id) else {
            self.faults
                .note(|| format!("object {id} is used but not there"));
            return Load::default();
        };
        if self.open.contains(&id) || self.open.len() > MOST_DEPTH {
            self.faults.note(|| format!("object {id} contains itself"));
            return Load::default();
        }
        self.open.push(id);
        let mut load = Load {
            triangles: object.triangles.len() as u64,
            placed: 1,
            depth: 0,
        };
        for (inner, _) in &object.components {
            load = load.and(self.of(inner));
            if self.faults.enough() {
                break;
            }
        }
        self.open.pop();
        load.depth += 1;
        // What has no triangles is not placed, however often it is named.
        if load.triangles == 0 {
            load.placed = 0;
        }
        self.known.insert(id, load);
        load
    }
}

/// A mesh as it is put together from objects.
struct Building<'a> {
    model: &'a Model,
    loads: HashMap<&'a str, Load>,
    loose: Vec<[[f32; 3]; 3]>,
}

impl<'a> Building<'a> {
    fn place(&mut self, id: &'a str, transform: &Transform) {
        let Some(object) = self.model.objects.get(id) else {
            return;
        };
        if self.loads.get(id).is_none_or(|load| load.triangles == 0) {
            return;
        }
        let mm = self.model.mm;
        let moved = |c: [f32; 3]| -> [f32; 3] {
            let c = c.map(f64::from);
            std::array::from_fn(|k| {
                ((c[0] * transform[k]
                    + c[1] * transform[3 + k]
                    + c[2] * transform[6 + k]
                    + transform[9 + k])
                    * mm) as f32
            })
        };
        let mirrored = determinant(transform) < 0.0;
        for [a, b, c] in &object.triangles {
            let [b, c] = if mirrored { [c, b] } else { [b, c] };
            self.loose
                .push([a, b, c].map(|i| moved(object.corners[*i as usize])));
        }
        for (inner, at) in &object.components {
            self.place(inner, &then(at, transform));
        }
    }
}
