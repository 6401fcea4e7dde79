//! Style, scripts and fonts, shipped in the binary under one hash over all of them.

use std::sync::LazyLock;

use axum::extract::Path;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "static"]
struct Assets;

/// One hash over all files: a new version gets new addresses, so pages may keep them for ever.
pub(crate) static HASH: LazyLock<String> = LazyLock::new(|| {
    let mut names: Vec<_> = Assets::iter().collect();
    names.sort();
    let mut hasher = blake3::Hasher::new();
    for name in names {
        hasher.update(name.as_bytes());
        if let Some(file) = Assets::get(&name) {
            hasher.update(&file.data);
        }
    }
    hasher.finalize().to_hex()[..12].to_owned()
});

/// A file; under an old hash it is still served, but not kept.
pub(crate) async fn serve(Path((hash, path)): Path<(String, String)>) -> Response {
    let Some(file) = Assets::get(&path) else {
        return StatusCode::NOT_FOUND.into_response();
    };
    let keep = if hash == *HASH {
        "public, max-age=31536000, immutable"
    } else {
        "no-store"
    };
    let kind = mime_guess::from_path(&path).first_or_octet_stream();
    (
        [
            (header::CONTENT_TYPE, kind.as_ref()),
            (header::CACHE_CONTROL, keep),
        ],
        file.data.into_owned(),
    )
        .into_response()
}
