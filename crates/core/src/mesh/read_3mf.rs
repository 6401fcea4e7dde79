//! 3MF: a zip with an XML model of objects, components and build items. Read as a stream with
//! bounds on everything; a document that declares entities is refused.
//!
//! Source: 3MF Core Specification 1.3, chapters 3 to 5.

use std::collections::HashMap;
use std::io::{BufRead, BufReader, Cursor, Read};
use std::str::FromStr;

use quick_xml::events::{BytesStart, Event};
use quick_xml::reader::Reader;

use super::faults::Faults;
use super::read_stl::MAX_TRIANGLES;
use super::{Mesh, ReadError};

/// Bytes of the model part at most, unpacked.
const MOST_BYTES: u64 = 1_500_000_000;
/// Elements inside each other at most.
const MOST_DEPTH: usize = 32;
/// Objects at most.
const MOST_OBJECTS: usize = 10_000;
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
}

/// Reads a 3MF file; every object on the build plate, in mm.
///
/// # Errors
/// [`ReadError::NotZip`] and [`ReadError::Faulty`].
pub fn read_3mf(bytes: &[u8]) -> Result<Mesh, ReadError> {
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).map_err(|_| ReadError::NotZip)?;
    let name =
        model_part(&zip).ok_or_else(|| ReadError::Faulty("there is no 3D model in it".into()))?;
    let part = zip.by_name(&name).map_err(|_| ReadError::NotZip)?;
    if part.size() > MOST_BYTES {
        return Err(ReadError::Faulty(
            "its model unpacks to more than 1.5 GB".into(),
        ));
    }
    let mut faults = Faults::default();
    let model = parse(BufReader::new(part.take(MOST_BYTES)), &mut faults)?;
    if let Some(faults) = faults.end() {
        return Err(ReadError::Faulty(faults));
    }
    build(&model)
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

fn parse(text: impl BufRead, faults: &mut Faults) -> Result<Model, ReadError> {
    let mut reader = Reader::from_reader(text);
    let mut reading = Reading::default();
    reading.model.mm = 1.0;
    let (mut buffer, mut depth) = (Vec::new(), 0_usize);
    loop {
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
    triangles: u64,
}

impl Reading {
    fn element(&mut self, element: &BytesStart<'_>, faults: &mut Faults) -> Result<(), ReadError> {
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
            "triangle" => {
                self.triangles += 1;
                let triangles = self.triangles;
                if triangles > MAX_TRIANGLES {
                    return Err(ReadError::TooMany { triangles });
                }
                match (three(element, ["v1", "v2", "v3"]), self.object()) {
                    (Some(corners), Some(object)) => object.triangles.push(corners),
                    _ => faults.note(|| "a triangle is not three corners".into()),
                }
            }
            "component" => {
                if let (Some(to), Some(object)) = (placed(element, faults), self.object()) {
                    object.components.push(to);
                }
            }
            "item" => self.model.items.extend(placed(element, faults)),
            _ => {}
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
    let mut building = Building {
        model,
        path: Vec::new(),
        loose: Vec::new(),
        placed: 0,
        faults: Faults::default(),
    };
    // A model without a build is taken as all of its objects that no other one uses.
    let used: Vec<&str> = model
        .objects
        .values()
        .flat_map(|o| &o.components)
        .map(|c| c.0.as_str())
        .collect();
    let mut alone: Vec<(String, Transform)> = model
        .objects
        .keys()
        .filter(|id| !used.contains(&id.as_str()))
        .map(|id| (id.clone(), UPRIGHT))
        .collect();
    alone.sort_by(|a, b| a.0.cmp(&b.0));
    let items = if model.items.is_empty() {
        &alone
    } else {
        &model.items
    };
    for (id, transform) in items {
        building.place(id, transform)?;
    }
    if let Some(faults) = building.faults.end() {
        return Err(ReadError::Faulty(faults));
    }
    let mesh = Mesh::weld(building.loose);
    if mesh.triangles.is_empty() {
        return Err(ReadError::NoTriangles {
            dropped: mesh.dropped,
        });
    }
    Ok(mesh)
}

/// A mesh as it is put together from objects.
struct Building<'a> {
    model: &'a Model,
    /// The objects that are being placed, from the item inward.
    path: Vec<&'a str>,
    loose: Vec<[[f32; 3]; 3]>,
    placed: u64,
    faults: Faults,
}

impl<'a> Building<'a> {
    fn place(&mut self, id: &'a str, transform: &Transform) -> Result<(), ReadError> {
        // A few objects that use each other twice over are billions of placements.
        self.placed += 1;
        if self.placed > MOST_PLACED {
            return Err(broken("its components repeat without end"));
        }
        let Some(object) = self.model.objects.get(id) else {
            self.faults
                .note(|| format!("object {id} is used but not there"));
            return Ok(());
        };
        if self.path.contains(&id) || self.path.len() > MOST_DEPTH {
            self.faults.note(|| format!("object {id} contains itself"));
            return Ok(());
        }
        let triangles = self.loose.len() as u64 + object.triangles.len() as u64;
        if triangles > MAX_TRIANGLES {
            return Err(ReadError::TooMany { triangles });
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
        self.path.push(id);
        for (inner, at) in &object.components {
            self.place(inner, &then(at, transform))?;
        }
        self.path.pop();
        Ok(())
    }
}
