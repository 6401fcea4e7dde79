//! 3MF: a zip with an XML model of objects, components and build items. Read as a stream with
//! bounds on everything; a document that declares entities is refused.
//!
//! Source: 3MF Core Specification 1.3, chapters 3 to 5.

use std::collections::HashMap;
use std::io::{BufRead, BufReader, Cursor, Read};

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
    let mut model = Model {
        mm: 1.0,
        ..Model::default()
    };
    let (mut open, mut depth) = (None::<String>, 0_usize);
    let (mut buffer, mut triangles) = (Vec::new(), 0_u64);
    loop {
        let event = reader
            .read_event_into(&mut buffer)
            .map_err(|_| broken("it is not well formed"))?;
        let (element, empty) = match event {
            Event::Eof => break,
            Event::DocType(_) => return Err(broken("it declares entities, which no model needs")),
            Event::End(_) => {
                depth = depth.saturating_sub(1);
                buffer.clear();
                continue;
            }
            Event::Start(element) => (element, false),
            Event::Empty(element) => (element, true),
            _ => {
                buffer.clear();
                continue;
            }
        };
        depth += usize::from(!empty);
        if depth > MOST_DEPTH {
            return Err(broken("its elements are nested too deep"));
        }
        let name = element.local_name();
        match name.as_ref() {
            "model" => model.mm = unit_mm(&attribute(&element, "unit").unwrap_or_default()),
            "object" => {
                let id = attribute(&element, "id").unwrap_or_default();
                if model.objects.len() >= MOST_OBJECTS {
                    return Err(broken("it has too many objects"));
                }
                model.objects.insert(id.clone(), Object::default());
                open = Some(id);
            }
            "vertex" => {
                let numbers = ["x", "y", "z"]
                    .map(|n| attribute(&element, n).and_then(|t| t.trim().parse::<f32>().ok()));
                let object = open.as_ref().and_then(|id| model.objects.get_mut(id));
                match (numbers, object) {
                    ([Some(x), Some(y), Some(z)], Some(object)) => object.corners.push([x, y, z]),
                    _ => faults.note(|| "a corner is not three numbers".into()),
                }
            }
            "triangle" => {
                triangles += 1;
                if triangles > MAX_TRIANGLES {
                    return Err(ReadError::TooMany { triangles });
                }
                let numbers = ["v1", "v2", "v3"]
                    .map(|n| attribute(&element, n).and_then(|t| t.trim().parse::<u32>().ok()));
                let object = open.as_ref().and_then(|id| model.objects.get_mut(id));
                match (numbers, object) {
                    ([Some(a), Some(b), Some(c)], Some(object)) => object.triangles.push([a, b, c]),
                    _ => faults.note(|| "a triangle is not three corners".into()),
                }
            }
            "component" => {
                let object = open.as_ref().and_then(|id| model.objects.get_mut(id));
                if let (Some(to), Some(object)) = (placed(&element, faults), object) {
                    object.components.push(to);
                }
            }
            "item" => model.items.extend(placed(&element, faults)),
            _ => {}
        }
        buffer.clear();
    }
    for (id, object) in &model.objects {
        let corners = object.corners.len();
        let outside = object
            .triangles
            .iter()
            .filter(|t| t.iter().any(|i| *i as usize >= corners))
            .count();
        if outside > 0 {
            faults.note(|| {
                format!("object {id} has {outside} triangles with a corner that is not there")
            });
        }
    }
    Ok(model)
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
    let mut loose = Vec::new();
    let mut path = Vec::new();
    let mut faults = Faults::default();
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
        place(model, id, transform, &mut path, &mut loose, &mut faults);
        if loose.len() as u64 > MAX_TRIANGLES {
            return Err(ReadError::TooMany {
                triangles: loose.len() as u64,
            });
        }
    }
    if let Some(faults) = faults.end() {
        return Err(ReadError::Faulty(faults));
    }
    let mesh = Mesh::weld(loose);
    if mesh.triangles.is_empty() {
        return Err(ReadError::NoTriangles {
            dropped: mesh.dropped,
        });
    }
    Ok(mesh)
}

fn place(
    model: &Model,
    id: &str,
    transform: &Transform,
    path: &mut Vec<String>,
    loose: &mut Vec<[[f32; 3]; 3]>,
    faults: &mut Faults,
) {
    let Some(object) = model.objects.get(id) else {
        faults.note(|| format!("object {id} is used but not there"));
        return;
    };
    if path.iter().any(|p| p == id) || path.len() > MOST_DEPTH {
        faults.note(|| format!("object {id} contains itself"));
        return;
    }
    if loose.len() as u64 + object.triangles.len() as u64 > MAX_TRIANGLES + 1 {
        faults.note(|| "its components repeat to more triangles than are read".into());
        return;
    }
    let moved = |c: [f32; 3]| -> [f32; 3] {
        let c = c.map(f64::from);
        std::array::from_fn(|k| {
            ((c[0] * transform[k]
                + c[1] * transform[3 + k]
                + c[2] * transform[6 + k]
                + transform[9 + k])
                * model.mm) as f32
        })
    };
    let mirrored = determinant(transform) < 0.0;
    for [a, b, c] in &object.triangles {
        let [b, c] = if mirrored { [c, b] } else { [b, c] };
        loose.push([a, b, c].map(|i| moved(object.corners[*i as usize])));
    }
    path.push(id.to_owned());
    for (inner, at) in &object.components {
        if loose.len() as u64 <= MAX_TRIANGLES {
            place(model, inner, &then(at, transform), path, loose, faults);
        }
    }
    path.pop();
}
