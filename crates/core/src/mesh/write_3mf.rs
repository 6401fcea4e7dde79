//! 3MF out: one object, in mm. Source: 3MF Core Specification 1.3.

use std::fmt::Write as _;
use std::io::{Cursor, Write as _};

use zip::write::SimpleFileOptions;

use super::Mesh;

const CONTENT_TYPES: &str = r#"<?xml version="1.0" encoding="UTF-8"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>
"#;
const RELATIONS: &str = r#"<?xml version="1.0" encoding="UTF-8"?>
<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="model" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>
"#;

/// Why a 3MF could not be written: the archive grew beyond what a zip holds.
#[derive(Debug, thiserror::Error)]
#[error("the mesh is too large for a 3MF file: {0}")]
pub struct WriteError(#[from] zip::result::ZipError);

impl From<std::io::Error> for WriteError {
    fn from(error: std::io::Error) -> Self {
        Self(error.into())
    }
}

/// Writes a 3MF file. Equal meshes give equal bytes.
///
/// # Errors
/// [`WriteError`] for a mesh of many gigabytes.
pub fn write_3mf(mesh: &Mesh) -> Result<Vec<u8>, WriteError> {
    let mut model = String::from(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<model unit=\"millimeter\" xml:lang=\"en\" xmlns=\"http://schemas.microsoft.com/3dmanufacturing/core/2015/02\"><resources><object id=\"1\" type=\"model\"><mesh><vertices>",
    );
    for [x, y, z] in mesh.corners() {
        let _ = write!(model, "<vertex x=\"{x}\" y=\"{y}\" z=\"{z}\"/>");
    }
    model.push_str("</vertices><triangles>");
    for [a, b, c] in mesh.triangles() {
        let _ = write!(model, "<triangle v1=\"{a}\" v2=\"{b}\" v3=\"{c}\"/>");
    }
    model.push_str(
        "</triangles></mesh></object></resources><build><item objectid=\"1\"/></build></model>\n",
    );
    zipped(&model)
}

/// A model with what a 3MF file has around it.
pub(super) fn zipped(model: &str) -> Result<Vec<u8>, WriteError> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let options = SimpleFileOptions::default().last_modified_time(zip::DateTime::default());
    for (name, text) in [
        ("[Content_Types].xml", CONTENT_TYPES),
        ("_rels/.rels", RELATIONS),
        ("3D/3dmodel.model", model),
    ] {
        zip.start_file(name, options)?;
        zip.write_all(text.as_bytes())?;
    }
    Ok(zip.finish()?.into_inner())
}
