//! Coming in from another device.

use askama::Template;
use qrcode::QrCode;
use qrcode::render::svg;

use super::{Page, show};
use crate::door::Device;
use crate::guard::Asked;
use crate::state::App;

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
            page: Page::bare("Sign in"),
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
    /// Those that are signed in.
    pub(crate) devices: Vec<DeviceLine>,
    pub(crate) fault: String,
}

/// A device that is signed in.
pub(crate) struct DeviceLine {
    pub(crate) id: u64,
    pub(crate) name: &'static str,
    pub(crate) address: String,
    pub(crate) since: String,
    pub(crate) seen: String,
    /// The one that shows this page.
    pub(crate) own: bool,
}

impl PhoneView {
    pub(crate) fn new(
        page: Page,
        known: bool,
        token: Option<&str>,
        asked: &Asked,
        app: &App,
        fault: String,
    ) -> Self {
        let settings = &app.settings;
        let of = |at: &String| {
            let enter = format!("{at}/enter/{}", token.unwrap_or_default());
            let code = QrCode::new(enter.as_bytes()).ok()?;
            let drawn = code
                .render::<svg::Color<'_>>()
                .min_dimensions(220, 220)
                .build();
            // The drawing without the line that only a file begins with.
            let begins = drawn.find("<svg").unwrap_or(0);
            Some((format!("{at}/"), drawn[begins..].to_owned()))
        };
        // By the way this page came, where a proxy is in front: the phone comes the same way.
        let here = |host: &String| format!("http://{host}:{}", settings.port);
        let ways: Vec<String> = match &asked.outside {
            Some(outside) => vec![outside.clone()],
            None if settings.addresses.is_empty() => {
                let proxies = settings.proxies.iter();
                proxies.map(|name| format!("https://{name}")).collect()
            }
            None => settings.addresses.iter().map(here).collect(),
        };
        let codes = token.map_or_else(Vec::new, |_| ways.iter().filter_map(of).collect());
        Self {
            known,
            beyond: settings.beyond,
            codes,
            devices: Vec::new(),
            fault,
            page,
        }
    }

    /// With those that are signed in, among them the one that shows this page.
    pub(crate) fn with_devices(mut self, devices: &[Device], own: Option<u64>) -> Self {
        let zone = &self.page.zone;
        let line = |d: &Device| DeviceLine {
            id: d.id,
            name: if d.mobile { "Phone" } else { "Computer" },
            address: d.address.clone(),
            since: show::when(d.since_ms, zone),
            seen: show::when(d.seen_ms, zone),
            own: Some(d.id) == own,
        };
        self.devices = devices.iter().map(line).collect();
        self
    }
}
