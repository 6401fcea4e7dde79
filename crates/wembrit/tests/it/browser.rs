//! Headless Chromium at exactly 1280×800, and the end of it whatever happens.

use std::collections::BTreeSet;
use std::io::{BufRead, BufReader, Read};
use std::os::unix::process::CommandExt;
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::{LazyLock, Mutex};
use std::time::{Duration, Instant};

use fantoccini::actions::{InputSource, KeyAction, KeyActions};
use fantoccini::error::CmdError;
use fantoccini::wd::{Capabilities, WebDriverCompatibleCommand};
use fantoccini::{Client, ClientBuilder, Locator};
use hyper_util::client::legacy::connect::HttpConnector;
use serde_json::{Value, json};
use wembrit_store::Store;

/// chromedriver in a process group of its own: a shell waits on a pipe and kills the group when
/// the pipe closes, so nothing is left behind after a pass, a panic or a killed test.
struct Driver {
    shell: Child,
    pipe: Option<ChildStdin>,
    port: u16,
    _folder: tempfile::TempDir,
}

impl Driver {
    /// A driver that listens: another one where its port was taken between choice and use.
    fn start() -> Self {
        (0..5)
            .find_map(|_| Self::try_start())
            .expect("chromedriver starts: install chromium-driver (cargo x test does)")
    }

    fn try_start() -> Option<Self> {
        let folder =
            tempfile::tempdir_in(env!("CARGO_TARGET_TMPDIR")).expect("a folder for the browser");
        // The shell lets go of the output, so that it ends with the driver; no driver outlives
        // ten minutes, so that a command without an answer fails its test.
        let script = "exec 3<&0; timeout --foreground 600 chromedriver --port=0 --log-level=WARNING </dev/null 3<&- & exec >&-; read -r _ <&3; kill -s KILL -- -$$";
        let mut shell = Command::new("sh")
            .args(["-c", script])
            .env("TMPDIR", folder.path())
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .process_group(0)
            .spawn()
            .expect("a shell for chromedriver");
        let mut lines = BufReader::new(shell.stdout.take().expect("its output")).lines();
        let port = lines.by_ref().map_while(Result::ok).find_map(|line| {
            let port = line.split("started successfully on port ").nth(1)?;
            port.trim_end_matches('.').parse().ok()
        });
        // A full pipe would stop the driver.
        std::thread::spawn(move || lines.for_each(drop));
        let driver = Self {
            pipe: shell.stdin.take(),
            shell,
            port: port.unwrap_or_default(),
            _folder: folder,
        };
        port.map(|_| driver)
    }
}

impl Drop for Driver {
    fn drop(&mut self) {
        self.pipe.take();
        let _ = self.shell.wait();
    }
}

/// One browser window.
pub(crate) struct Browser {
    pub(crate) client: Client,
    base: String,
    _driver: Driver,
}

/// A command of Chromium's own protocol.
#[derive(Debug)]
struct Cdp(&'static str, Value);

impl WebDriverCompatibleCommand for Cdp {
    fn endpoint(
        &self,
        base: &url::Url,
        session: Option<&str>,
    ) -> Result<url::Url, url::ParseError> {
        base.join(&format!(
            "session/{}/goog/cdp/execute",
            session.unwrap_or_default()
        ))
    }
    fn method_and_body(&self, _: &url::Url) -> (http::Method, Option<String>) {
        (
            http::Method::POST,
            Some(json!({ "cmd": self.0, "params": self.1 }).to_string()),
        )
    }
}

/// How long a test waits for what a page will say: planning takes its time on a slow machine.
pub(crate) const ENTER: char = '\u{e007}';
pub(crate) const TAB: char = '\u{e004}';

const PATIENCE: Duration = Duration::from_secs(120);

impl Browser {
    /// A new window on a server's address.
    pub(crate) async fn open(base: &str) -> Self {
        let driver = Driver::start();
        let args = [
            "--headless=new",
            "--no-sandbox",
            "--disable-dev-shm-usage",
            "--disable-gpu",
            "--hide-scrollbars",
            "--force-device-scale-factor=1",
            "--font-render-hinting=none",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--window-size=1280,800",
        ];
        let mut capabilities = Capabilities::new();
        capabilities.insert("goog:chromeOptions".into(), json!({ "args": args }));
        let address = format!("http://127.0.0.1:{}", driver.port);
        let mut builder = ClientBuilder::new(HttpConnector::new());
        let session = builder.capabilities(capabilities).connect(&address);
        let client = tokio::time::timeout(2 * PATIENCE, session)
            .await
            .expect("an answer of the driver")
            .expect("a browser session");
        let browser = Self {
            client,
            base: base.to_owned(),
            _driver: driver,
        };
        browser.resize(1280, 800).await;
        browser
    }

    /// The page, and the kinds of elements on it: what axe has looked at once, it need not look at
    /// again in another test.
    async fn state(&self) -> Option<String> {
        const STATE: &str = "const kinds = new Set([...document.querySelectorAll('body *')].map((e) => e.localName + '.' + e.getAttribute('class')));\
            return location.pathname.replace(/\\d+/g, 'N') + ' ' + innerWidth + ' ' + [...kinds].sort().join(' ');";
        let state = self.client.execute(STATE, vec![]).await.ok()?;
        state.as_str().map(str::to_owned)
    }

    /// Checks the page with axe-core (npm package axe-core 4.14.1, kept beside the tests): every
    /// page and state a test visits has no violation.
    pub(crate) async fn check(&self) {
        static SEEN: Mutex<BTreeSet<String>> = Mutex::new(BTreeSet::new());
        if let Some(state) = self.state().await
            && !SEEN.lock().expect("no panic under it").insert(state)
        {
            return;
        }
        const AXE: &str = include_str!("../vendor/axe.min.js");
        const RUN: &str = "const done = arguments[0]; axe.run(document, { resultTypes: ['violations'] })\
            .then((r) => done(r.violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`)), (e) => done([String(e)]));";
        // A page that waits for figures loads itself again, now and then just here.
        let mut ran = None;
        for _ in 0..5 {
            if self.client.execute(AXE, vec![]).await.is_ok()
                && let Ok(found) = self.client.execute_async(RUN, vec![]).await
            {
                ran = Some(found);
                break;
            }
            tokio::time::sleep(Duration::from_millis(300)).await;
        }
        let found = ran.expect("axe runs");
        let found: Vec<&str> = found
            .as_array()
            .into_iter()
            .flatten()
            .filter_map(Value::as_str)
            .collect();
        assert!(
            found.is_empty(),
            "axe on {}: {}",
            self.path().await,
            found.join("\n")
        );
    }

    /// Gives the page exactly this size.
    pub(crate) async fn resize(&self, width: u32, height: u32) {
        let size =
            json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false });
        self.client
            .issue_cmd(Cdp("Emulation.setDeviceMetricsOverride", size))
            .await
            .expect("a size");
    }

    pub(crate) async fn goto(&self, path: &str) {
        self.answered().await;
        self.client
            .goto(&format!("{}{path}", self.base))
            .await
            .expect("a page");
        self.check().await;
    }

    pub(crate) async fn path(&self) -> String {
        self.client
            .current_url()
            .await
            .expect("an address")
            .path()
            .to_owned()
    }

    /// Waits for an element, and fails with what the page says instead.
    pub(crate) async fn see(&self, css: &str) -> fantoccini::elements::Element {
        let until = Instant::now() + PATIENCE;
        loop {
            match self.client.find(Locator::Css(css)).await {
                Ok(element) => return element,
                Err(_) if Instant::now() < until => {
                    tokio::time::sleep(Duration::from_millis(50)).await
                }
                Err(_) => panic!(
                    "no {css} on {}: {}",
                    self.path().await,
                    self.text("main").await
                ),
            }
        }
    }

    /// Waits until the page says this, and tells all that stands there then.
    pub(crate) async fn read(&self, css: &str, words: &str) -> String {
        let until = Instant::now() + PATIENCE;
        loop {
            let text = self.text(css).await;
            if text.contains(words) {
                return text;
            }
            assert!(
                Instant::now() < until,
                "'{words}' is not in {css} on {}: {text}",
                self.path().await
            );
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }

    /// Waits until an element says something else.
    pub(crate) async fn read_not(&self, css: &str, words: &str) {
        let until = Instant::now() + PATIENCE;
        while self.text(css).await == words {
            assert!(Instant::now() < until, "{css} still says '{words}'");
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }

    /// What an element says now; nothing while there is none.
    pub(crate) async fn text(&self, css: &str) -> String {
        match self.client.find(Locator::Css(css)).await {
            Ok(element) => element.text().await.unwrap_or_default(),
            Err(_) => String::new(),
        }
    }

    pub(crate) async fn count(&self, css: &str) -> usize {
        self.client
            .find_all(Locator::Css(css))
            .await
            .expect("a query")
            .len()
    }

    /// Types into a field in place of what stands there.
    pub(crate) async fn fill(&self, name: &str, value: &str) {
        // Again where the page drew itself anew between finding the field and typing into it.
        for _ in 0..5 {
            if self.try_to_fill(name, value).await.is_ok() {
                return;
            }
        }
        self.try_to_fill(name, value).await.expect("a field");
    }

    async fn try_to_fill(&self, name: &str, value: &str) -> Result<(), CmdError> {
        let field = self.see(&format!("[name='{name}']")).await;
        if field.tag_name().await? == "select" {
            field.select_by_label(value).await
        } else {
            field.clear().await?;
            field.send_keys(value).await
        }
    }

    /// The answers of the first run, not yet sent.
    pub(crate) async fn three_answers(&self, price: &str) {
        self.goto("/").await;
        for (name, value) in [
            ("width_mm", "130"),
            ("depth_mm", "80"),
            ("height_mm", "150"),
            ("price_per_kg", price),
        ] {
            self.fill(name, value).await;
        }
    }

    /// A project, a unit, a model so many times, and its one part from the file `h mini a`.
    pub(crate) async fn an_army(&self, quantity: u32) {
        self.see("form[action='/projects/new']").await;
        self.fill("name", "Fen watch").await;
        self.press("Save").await;
        self.press("Add a unit").await;
        self.fill("name", "Pikers").await;
        self.press("Add the unit").await;
        self.see("[name=quantity]").await;
        self.fill("name", "Piker").await;
        self.fill("quantity", &quantity.to_string()).await;
        self.fill("base", "25").await;
        self.press("Add the model").await;
        self.press("Add a part").await;
        self.fill("name", "Figure").await;
        self.fill("sculpt", "h mini a").await;
        self.press("Add the part").await;
        self.read("main", "h mini a").await;
    }

    /// An empty workshop with a printer that holds one figure on a plate: so many of them, planned.
    pub(crate) async fn one_a_plate(&self, figures: u32) {
        self.planned(["50", "46"], figures).await;
    }

    /// An empty workshop with so many figures on one plate, the plan of which is accepted.
    pub(crate) async fn a_plate_of(&self, figures: u32) {
        self.planned(["130", "80"], figures).await;
        self.press("Accept this plan").await;
        self.see("li:has(.is-planned) a.picture").await;
    }

    async fn planned(&self, [width, depth]: [&str; 2], figures: u32) {
        self.three_answers("25").await;
        self.fill("width_mm", width).await;
        self.fill("depth_mm", depth).await;
        self.press("Begin").await;
        self.see("form[action='/projects/new']").await;
        self.goto("/sculpts").await;
        let data = concat!(
            env!("CARGO_MANIFEST_DIR"),
            "/../core/tests/data/h_mini_a.stl"
        );
        let file = std::path::Path::new(data).canonicalize();
        self.choose_files(&[file.expect("the file")]).await;
        self.press("Upload and measure").await;
        self.read("main", "866").await;
        self.goto("/muster").await;
        self.an_army(figures).await;
        self.goto("/plates").await;
        self.press("Plan plates").await;
        self.read("main", "Accept this plan").await;
    }

    /// Goes to a page again and again until it says some words in whatever case: for figures
    /// worked out in the background.
    pub(crate) async fn goto_until(&self, path: &str, words: &str) {
        for _ in 0..240 {
            self.goto(path).await;
            if self.text("main").await.to_lowercase().contains(words) {
                return;
            }
            tokio::time::sleep(Duration::from_millis(250)).await;
        }
        panic!("{path} never says {words:?}");
    }

    /// Clicks the button or link that says this.
    pub(crate) async fn press(&self, words: &str) {
        let path = format!(
            "//*[self::button or self::a or self::summary or self::label][contains(normalize-space(.), \"{words}\")]"
        );
        self.click(&path, words).await;
    }

    /// A form that was sent is answered by another page. Going elsewhere before it is would drop
    /// what was sent, or be overtaken by its answer.
    async fn answered(&self) {
        let until = Instant::now() + PATIENCE;
        let sent = "return window.sent === true";
        while let Ok(serde_json::Value::Bool(true)) = self.client.execute(sent, vec![]).await {
            assert!(Instant::now() < until, "a form is not answered");
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
    }

    /// Clicks what an XPath finds; again where a live piece of the page was just fetched anew.
    async fn click(&self, path: &str, words: &str) {
        let notes = "addEventListener('submit', (e) => { window.sent ||= !e.defaultPrevented })";
        let _ = self.client.execute(notes, vec![]).await;
        let mut clicked = false;
        for _ in 0..20 {
            self.client
                .wait()
                .at_most(PATIENCE)
                .for_element(Locator::XPath(path))
                .await
                .unwrap_or_else(|_| panic!("nothing to click says '{words}'"));
            // The first that is seen: a closed list may hold another.
            let found = self.client.find_all(Locator::XPath(path)).await;
            for element in found.unwrap_or_default() {
                clicked = clicked || element.click().await.is_ok();
            }
            if clicked {
                break;
            }
            tokio::time::sleep(Duration::from_millis(200)).await;
        }
        assert!(clicked, "'{words}' cannot be clicked");
        self.check().await;
    }

    /// Clicks the link with exactly these words.
    pub(crate) async fn follow(&self, words: &str) {
        let path = format!("//a[normalize-space(.) = \"{words}\"]");
        self.click(&path, words).await;
    }

    /// Before the start, on the sheet of a plate that waits: everything is so.
    pub(crate) async fn start_the_run(&self) {
        self.start_with("250").await;
    }

    /// The same with so much in the vat, ml.
    pub(crate) async fn start_with(&self, vat_ml: &str) {
        self.press("Pre-flight").await;
        self.see(".preflight").await;
        if self.count("#found").await > 0 {
            self.fill("found", "nothing").await;
            self.press("I looked into the vat").await;
            self.see(".checks li.is-good").await;
        }
        self.fill("vat_ml", vat_ml).await;
        self.fill("room_c", "21").await;
        let tick = "for (const box of document.querySelectorAll('.checks input[type=checkbox]')) box.click()";
        self.client.execute(tick, vec![]).await.expect("ticked");
        self.press("Start the run").await;
        self.read("main", "Take it off").await;
    }

    /// Presses a key, wherever the focus is.
    pub(crate) async fn key(&self, value: char) {
        let press = KeyActions::new("keys".into())
            .then(KeyAction::Down { value })
            .then(KeyAction::Up { value });
        self.client.perform_actions(press).await.expect("a key");
    }

    /// Walks with the tabulator to what the selector names.
    pub(crate) async fn walk_to(&self, css: &str) {
        self.see(css).await;
        for _ in 0..400 {
            let script = "return document.activeElement.matches(arguments[0])";
            let here = self.client.execute(script, vec![css.into()]).await;
            if here.expect("a focus").as_bool() == Some(true) {
                return;
            }
            self.key(TAB).await;
        }
        let at = self.path().await;
        panic!("the keyboard does not reach {css} on {at}");
    }

    /// Walks with the tabulator to what the selector names, and presses Enter on it.
    pub(crate) async fn enter(&self, css: &str) {
        self.walk_to(css).await;
        self.key(ENTER).await;
    }

    /// Types where the focus is.
    pub(crate) async fn keys(&self, words: &str) {
        for c in words.chars() {
            self.key(c).await;
        }
    }

    /// Picks files for the upload on the page.
    pub(crate) async fn choose_files(&self, paths: &[std::path::PathBuf]) {
        let all: Vec<&str> = paths
            .iter()
            .map(|p| p.to_str().expect("a readable path"))
            .collect();
        self.see("input[type=file]")
            .await
            .send_keys(&all.join("\n"))
            .await
            .expect("files picked");
    }

    /// A picture of the window.
    pub(crate) async fn picture(&self) -> Vec<u8> {
        let loaded = "const done = arguments[0]; const late = [...document.images].filter((i) => i.loading !== 'lazy' && !i.complete); Promise.all([document.fonts.ready, ...late.map((i) => new Promise((r) => { i.onload = i.onerror = r; }))]).then(() => done(true));";
        self.client
            .execute_async(loaded, vec![])
            .await
            .expect("fonts and pictures");
        self.client.screenshot().await.expect("a picture")
    }

    pub(crate) async fn close(self) {
        let _ = self.client.clone().close().await;
    }
}

/// The real binary, serving on a free port.
pub(crate) struct Served {
    child: Child,
    pub(crate) base: String,
    folder: Option<tempfile::TempDir>,
}

/// When the demo is looked at, unless a test says otherwise.
pub(crate) const NOW: &str = "2026-11-24T09:40:00Z";

/// The demo's data file, filled once for all tests.
pub(crate) fn demo_file() -> &'static [u8] {
    static DEMO: LazyLock<Vec<u8>> = LazyLock::new(|| {
        let folder = tempfile::tempdir().expect("a folder");
        let store = Store::open(&folder.path().join("demo.sqlite")).expect("a data file");
        let now: jiff::Timestamp = NOW.parse().expect("a time");
        wembrit_demo::fill(&store, now.as_millisecond()).expect("the demo");
        let copy = folder.path().join("copy.sqlite");
        store.copy_to(&copy).expect("a copy");
        std::fs::read(copy).expect("the copy")
    });
    &DEMO
}

impl Served {
    /// The demo, in a copy of its own.
    pub(crate) fn demo() -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let file = folder.path().join("demo.sqlite");
        std::fs::write(&file, demo_file()).expect("a copy");
        let path = file.to_str().expect("a readable path");
        let mut served = Self::start(&["demo", "--by-hand", "--data", path, "--now", NOW]);
        served.folder = Some(folder);
        served
    }

    /// The demo with its printers, at a speed-up.
    pub(crate) fn with_printers(speed: &str) -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let file = folder.path().join("demo.sqlite");
        std::fs::write(&file, demo_file()).expect("a copy");
        let path = file.to_str().expect("a readable path");
        let args = ["demo", "--data", path, "--now", NOW, "--speed", speed];
        let mut served = Self::start(&args);
        served.folder = Some(folder);
        served
    }

    /// Its data file, read beside it.
    pub(crate) fn beside(&self) -> Store {
        let folder = self.folder.as_ref().expect("a folder of its own");
        Store::beside(&folder.path().join("demo.sqlite")).expect("it opens")
    }

    pub(crate) fn start(args: &[&str]) -> Self {
        Self::start_on("127.0.0.1:0", args)
    }

    /// Listening elsewhere than on this machine alone.
    pub(crate) fn start_on(listen: &str, args: &[&str]) -> Self {
        let mut child = Command::new(env!("CARGO_BIN_EXE_wembrit"))
            .args(args)
            .args(["--listen", listen])
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .expect("the program starts");
        let mut line = String::new();
        let mut out = BufReader::new(child.stdout.take().expect("its output"));
        out.read_line(&mut line).expect("a line");
        let Some((_, host)) = line.trim().split_once("http://") else {
            let mut why = String::new();
            let _ = child
                .stderr
                .take()
                .expect("its errors")
                .read_to_string(&mut why);
            panic!("it does not serve: {line}{why}");
        };
        Self {
            base: format!("http://{host}"),
            child,
            folder: None,
        }
    }

    /// As a power cut would.
    pub(crate) fn kill(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

impl Drop for Served {
    fn drop(&mut self) {
        self.kill();
    }
}
