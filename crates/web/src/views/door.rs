//! Coming in from another device.

use askama::Template;
use qrcode::QrCode;
use qrcode::render::svg;

use super::Page;
use crate::settings::Settings;

/// The form at the door.
#[derive(Template)]
#[template(path = "door/enter.html")]
pub(crate) struct EnterView {
    pub(crate) page: Page,
    pub(crate) fault: String,
}

impl EnterView {
    pub(crate) fn new(fault: String) -> Self {
        Self {
            page: Page::bare("Come in"),
            fault,
        }
    }
}

/// How a phone comes in.
#[derive(Template)]
#[template(path = "door/phone.html")]
pub(crate) struct PhoneView {
    pub(crate) page: Page,
    /// A passphrase is set.
    pub(crate) known: bool,
    pub(crate) beyond: bool,
    /// Address and code for each name of this machine that a phone may reach.
    pub(crate) codes: Vec<(String, String)>,
    pub(crate) fault: String,
}

impl PhoneView {
    pub(crate) fn new(
        page: Page,
        known: bool,
        token: Option<&str>,
        settings: &Settings,
        fault: String,
    ) -> Self {
        let of = |host: &String| {
            let port = settings.port;
            let enter = format!("http://{host}:{port}/enter/{}", token.unwrap_or_default());
            let code = QrCode::new(enter.as_bytes()).ok()?;
            let drawn = code
                .render::<svg::Color<'_>>()
                .min_dimensions(220, 220)
                .build();
            // The drawing without the line that only a file begins with.
            let at = drawn.find("<svg").unwrap_or(0);
            Some((format!("http://{host}:{port}/"), drawn[at..].to_owned()))
        };
        let codes = token.map_or_else(Vec::new, |_| {
            settings.addresses.iter().filter_map(of).collect()
        });
        Self {
            known,
            beyond: settings.beyond,
            codes,
            fault,
            page,
        }
    }
}
