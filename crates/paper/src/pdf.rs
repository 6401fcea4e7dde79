//! Drawings as PDF, with the letters they are written in.

use std::sync::{Arc, LazyLock};

use svg2pdf::usvg::{Options, Tree, fontdb::Database};
use svg2pdf::{ConversionOptions, PageOptions};

/// Why there is no PDF.
#[derive(Debug, thiserror::Error)]
pub enum PdfError {
    /// The drawing cannot be read.
    #[error("the drawing could not be read: {0}")]
    Drawing(#[from] svg2pdf::usvg::Error),
    /// It cannot be written.
    #[error("the page could not be written: {0}")]
    Page(String),
}

/// The letters that ship with the program: nothing is looked for on the machine.
static LETTERS: LazyLock<Arc<Database>> = LazyLock::new(|| {
    let mut letters = Database::new();
    for font in [
        include_bytes!("../fonts/archivo-500.ttf").as_slice(),
        include_bytes!("../fonts/archivo-700.ttf"),
        include_bytes!("../fonts/spline-sans-mono-500.ttf"),
    ] {
        letters.load_font_data(font.to_vec());
    }
    letters.set_sans_serif_family("Archivo");
    letters.set_monospace_family("Spline Sans Mono");
    Arc::new(letters)
});

/// Pixels of a drawing to the inch (CSS Values and Units, 6.2).
const PER_INCH: f32 = 96.0;

/// A drawing as a PDF of one page, as large as the drawing says it is.
///
/// # Errors
/// [`PdfError`] where it is no drawing.
pub fn write_pdf(svg: &str) -> Result<Vec<u8>, PdfError> {
    let options = Options {
        fontdb: LETTERS.clone(),
        font_family: "Archivo".into(),
        ..Options::default()
    };
    let tree = Tree::from_str(svg, &options)?;
    let page = PageOptions { dpi: PER_INCH };
    svg2pdf::to_pdf(&tree, ConversionOptions::default(), page)
        .map_err(|error| PdfError::Page(error.to_string()))
}
