//! An application around a data file of its own.

use std::sync::LazyLock;
use std::time::{Duration, Instant};

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use http_body_util::BodyExt;
use tokio::net::TcpListener;
use tokio::sync::oneshot;
use tower::ServiceExt;
use wembrit_core::flow::{TaskKind, TaskState};
use wembrit_core::ids::PartId;
use wembrit_store::queries::{self, tasks};
use wembrit_store::{Conn, Store, commands};
use wembrit_web::{App, Clock, Settings, router};

pub(crate) const NOW: i64 = 1_795_500_000_000;

/// Everything that a start asks a person, ticked.
pub(crate) const TICKED: &str = "vat_ml=250&room_c=21&tick=right+plate&tick=exposure&tick=levelled&tick=film&tick=shaken&tick=gloves+and+air&tick=lid&tick=somebody+there";

pub(crate) struct TestApp {
    pub(crate) store: Store,
    pub(crate) app: App,
    router: Router,
    _folder: tempfile::TempDir,
}

/// An answer, read whole.
pub(crate) struct Answer {
    pub(crate) status: StatusCode,
    pub(crate) headers: axum::http::HeaderMap,
    pub(crate) body: String,
}

impl Answer {
    pub(crate) fn location(&self) -> &str {
        self.headers
            .get(header::LOCATION)
            .and_then(|l| l.to_str().ok())
            .unwrap_or_default()
    }

    #[track_caller]
    pub(crate) fn says(&self, words: &str) -> &Self {
        assert!(
            self.body.contains(words),
            "'{words}' is not in {}: {}",
            self.status,
            self.body
        );
        self
    }

    #[track_caller]
    pub(crate) fn is(&self, status: u16) -> &Self {
        assert_eq!(self.status.as_u16(), status, "{}", self.body);
        self
    }
}

/// A page without the keys of its forms, which are others every time.
pub(crate) fn without_keys(page: &str) -> String {
    const KEYS: [(&str, char); 3] = [
        ("name=\"once\" value=\"", '"'),
        ("?once=", '"'),
        ("&amp;once=", '"'),
    ];
    KEYS.iter().fold(page.to_owned(), |page, (begins, ends)| {
        let mut pieces = page.split(begins);
        let first = pieces.next().unwrap_or_default().to_owned();
        pieces.fold(first, |all, piece| {
            let (_, rest) = piece.split_once(*ends).unwrap_or(("", piece));
            all + begins + rest
        })
    })
}

impl TestApp {
    pub(crate) fn empty() -> Self {
        Self::with(Settings::default())
    }

    /// The demo, made once for all tests and copied.
    pub(crate) fn demo() -> Self {
        Self::demo_with(Settings::default())
    }

    /// The same with other settings.
    pub(crate) fn demo_with(settings: Settings) -> Self {
        static DEMO: LazyLock<Vec<u8>> = LazyLock::new(|| {
            let folder = tempfile::tempdir().expect("a folder");
            let path = folder.path().join("demo.sqlite");
            let store = Store::open(&path).expect("a data file");
            wembrit_demo::fill(&store, NOW).expect("the demo");
            let copy = folder.path().join("copy.sqlite");
            store.copy_to(&copy).expect("a copy");
            std::fs::read(copy).expect("the copy")
        });
        let folder = tempfile::tempdir().expect("a folder");
        std::fs::write(folder.path().join("w.sqlite"), &*DEMO).expect("written");
        Self::in_folder(folder, settings)
    }

    /// A data file that came from elsewhere.
    pub(crate) fn of_file(bytes: &[u8]) -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        std::fs::write(folder.path().join("w.sqlite"), bytes).expect("written");
        Self::in_folder(folder, Settings::default())
    }

    pub(crate) fn with(settings: Settings) -> Self {
        Self::in_folder(tempfile::tempdir().expect("a folder"), settings)
    }

    fn in_folder(folder: tempfile::TempDir, settings: Settings) -> Self {
        let store = Store::open(&folder.path().join("w.sqlite")).expect("a data file");
        let settings = Settings {
            clock: Clock::Fixed(NOW),
            ..settings
        };
        let app = App::new(store.clone(), settings);
        let router = router(app.clone());
        Self {
            store,
            app,
            router,
            _folder: folder,
        }
    }

    /// The same data file, served anew.
    pub(crate) fn again(&self) -> Self {
        let settings = Settings {
            clock: Clock::Fixed(NOW),
            ..Settings::default()
        };
        let app = App::new(self.store.clone(), settings);
        Self {
            store: self.store.clone(),
            router: router(app.clone()),
            app,
            _folder: tempfile::tempdir().expect("a folder"),
        }
    }

    pub(crate) async fn send(&self, request: Request<Body>) -> Answer {
        let response = self
            .router
            .clone()
            .oneshot(request)
            .await
            .expect("an answer");
        let (head, body) = response.into_parts();
        let body = body.collect().await.expect("a body").to_bytes();
        Answer {
            status: head.status,
            headers: head.headers,
            body: String::from_utf8_lossy(&body).into_owned(),
        }
    }

    pub(crate) async fn get(&self, path: &str) -> Answer {
        let request = Request::get(path)
            .header(header::HOST, "localhost:7411")
            .body(Body::empty());
        self.send(request.expect("a request")).await
    }

    /// A piece of a page, as a script asks for it.
    pub(crate) async fn piece(&self, path: &str) -> Answer {
        let request = Request::get(path)
            .header(header::HOST, "localhost:7411")
            .header("x-fragment", "1")
            .body(Body::empty());
        self.send(request.expect("a request")).await
    }

    /// An answer that is no text.
    pub(crate) async fn download(&self, path: &str) -> (axum::http::HeaderMap, Vec<u8>) {
        let request = Request::get(path)
            .header(header::HOST, "localhost:7411")
            .body(Body::empty());
        let response = self
            .router
            .clone()
            .oneshot(request.expect("a request"))
            .await
            .expect("an answer");
        let (head, body) = response.into_parts();
        (
            head.headers,
            body.collect().await.expect("a body").to_bytes().to_vec(),
        )
    }

    pub(crate) async fn post(&self, path: &str, form: &str) -> Answer {
        let request = Request::post(path)
            .header(header::HOST, "localhost:7411")
            .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
            .body(Body::from(form.to_owned()));
        self.send(request.expect("a request")).await
    }

    pub(crate) async fn upload(&self, files: &[(&str, &[u8])]) -> Answer {
        let fields: Vec<_> = files
            .iter()
            .map(|(name, bytes)| ("files", Some(*name), *bytes))
            .collect();
        self.multipart("/sculpts", &fields).await
    }

    /// One file under a heading as it is, be it no text.
    pub(crate) async fn upload_headed(&self, heading: &[u8], bytes: &[u8]) -> Answer {
        let begin: &[u8] = b"--edge\r\n";
        let kind: &[u8] = b"\r\nContent-Type: application/octet-stream\r\n\r\n";
        let body = [begin, heading, kind, bytes, b"\r\n--edge--\r\n"].concat();
        let request = Request::post("/sculpts")
            .header(header::HOST, "localhost:7411")
            .header(header::CONTENT_TYPE, "multipart/form-data; boundary=edge")
            .body(Body::from(body));
        self.send(request.expect("a request")).await
    }

    /// Fields of a form with files: name, name of the file, content.
    pub(crate) async fn multipart(
        &self,
        path: &str,
        fields: &[(&str, Option<&str>, &[u8])],
    ) -> Answer {
        let mut body = Vec::new();
        for (name, file, bytes) in fields {
            let file = file.map_or_else(String::new, |f| {
                format!("; filename=\"{f}\"\r\nContent-Type: application/octet-stream")
            });
            let head =
                format!("--edge\r\nContent-Disposition: form-data; name=\"{name}\"{file}\r\n\r\n");
            body.extend_from_slice(head.as_bytes());
            body.extend_from_slice(bytes);
            body.extend_from_slice(b"\r\n");
        }
        body.extend_from_slice(b"--edge--\r\n");
        let request = Request::post(path)
            .header(header::HOST, "localhost:7411")
            .header(header::CONTENT_TYPE, "multipart/form-data; boundary=edge")
            .body(Body::from(body));
        self.send(request.expect("a request")).await
    }
}

/// Serves a store until the condition holds, then stops in good order.
pub(crate) async fn served_until(store: &Store, holds: impl Fn(&Store) -> bool) {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let (stop, stopped) = oneshot::channel::<()>();
    let settings = Settings {
        clock: Clock::Fixed(NOW),
        ..Settings::default()
    };
    let shutdown = async move { drop(stopped.await) };
    let server = tokio::spawn(wembrit_web::launch(
        store.clone(),
        settings,
        listener,
        shutdown,
    ));
    let until = Instant::now() + Duration::from_secs(150);
    while !holds(store) {
        assert!(Instant::now() < until, "the work was not done");
        tokio::time::sleep(Duration::from_millis(10)).await;
    }
    stop.send(()).unwrap();
    server.await.unwrap().unwrap();
}

/// Has one part prepared as its recipe prints it now.
pub(crate) async fn prepared(app: &TestApp, part: PartId) {
    let ask = |c: &mut Conn| {
        let part = queries::muster::part(c, part)?;
        let version = queries::recipes::newest(c, part.recipe)?;
        let sculpt = queries::sculpts::load(c, part.sculpt.expect("it has a file"))?;
        commands::layer_facts::ask(c, &sculpt, &version, NOW)
    };
    app.store.write(ask).expect("it is asked for");
    worked_off(&app.store, &[TaskKind::Prepare]).await;
}

/// Serves a store until no task of these kinds is open.
pub(crate) async fn worked_off(store: &Store, kinds: &[TaskKind]) {
    let open = |s: &Store, state| s.read(|c| tasks::list(c, state)).expect("they load");
    served_until(store, |s| {
        let mut all = open(s, TaskState::Waiting);
        all.extend(open(s, TaskState::Running));
        all.iter().all(|t| !kinds.contains(&t.kind))
    })
    .await;
}
