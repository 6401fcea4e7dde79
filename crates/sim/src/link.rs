//! The machine at the end of a line: the open protocol over HTTP, and the clock.

use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use axum::body::Bytes;
use axum::extract::{DefaultBodyLimit, Path as At, Request, State};
use axum::http::{StatusCode, header};
use axum::middleware::{self, Next};
use axum::response::{IntoResponse, Response};
use axum::routing::{get, post, put};
use axum::{Json, Router};
use serde::{Deserialize, Serialize};
use tokio::net::TcpListener;
use wembrit_core::link::says::Says;
use wembrit_core::link::told::{Answer, Told};

use crate::error::SimError;
use crate::fault::AtLayer;
use crate::machine::{Machine, Spec, Through};
use crate::memory;

/// How often time goes by.
const TICK: Duration = Duration::from_millis(50);

/// A plate's file is some kilobytes; a memory has room for more.
const LARGEST: usize = 32 * 1024 * 1024;

/// A machine with its line and its memory.
#[derive(Clone)]
pub struct Sim {
    machine: Arc<Mutex<Machine>>,
    folder: Option<PathBuf>,
}

/// A command with its identity.
#[derive(Debug, Deserialize)]
struct Numbered {
    id: String,
    #[serde(flatten)]
    told: Told,
}

#[derive(Debug, Serialize)]
struct KeptFile {
    name: String,
    checksum: String,
}

#[derive(Debug, Deserialize)]
struct Speed {
    speed: f64,
}

#[derive(Debug, Deserialize)]
struct Fill {
    ml: f64,
}

/// Not done, and why.
struct Refused(StatusCode, String);

impl IntoResponse for Refused {
    fn into_response(self) -> Response {
        let why = serde_json::json!({ "why": self.1 });
        (self.0, Json(why)).into_response()
    }
}

impl From<SimError> for Refused {
    fn from(e: SimError) -> Self {
        Self(StatusCode::INTERNAL_SERVER_ERROR, e.to_string())
    }
}

impl Sim {
    /// The machine that was in a folder, else a new one; without a folder it forgets everything when it ends.
    ///
    /// # Errors
    /// [`SimError`] of the folder.
    pub fn open(folder: Option<&Path>, spec: Spec) -> Result<Self, SimError> {
        let known = match folder {
            Some(folder) => {
                std::fs::create_dir_all(folder)
                    .map_err(|e| SimError::Folder(folder.to_owned(), e))?;
                memory::read(folder)?
            }
            None => None,
        };
        Ok(Self {
            machine: Arc::new(Mutex::new(match known {
                Some(machine) => machine.like(spec),
                None => Machine::new(spec, uuid::Uuid::new_v4().simple().to_string()),
            })),
            folder: folder.map(Path::to_owned),
        })
    }

    /// Does something with the machine, and remembers what became of it before anybody hears of it.
    ///
    /// # Errors
    /// [`SimError`] of the folder.
    pub fn with<T>(&self, work: impl FnOnce(&mut Machine) -> T) -> Result<T, SimError> {
        let mut machine = self.machine.lock().unwrap_or_else(PoisonError::into_inner);
        let done = work(&mut machine);
        if let Some(folder) = &self.folder {
            memory::write(folder, &machine)?;
        }
        Ok(done)
    }

    fn look<T>(&self, at: impl FnOnce(&Machine) -> T) -> T {
        at(&self.machine.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Lets so much of the clock go by; what it does is remembered layer by layer.
    fn tick(&self, clock_s: f64) -> Result<(), SimError> {
        let mut machine = self.machine.lock().unwrap_or_else(PoisonError::into_inner);
        let before = (machine.stands(), machine.layer());
        machine.advance(clock_s);
        match &self.folder {
            Some(folder) if before != (machine.stands(), machine.layer()) => {
                memory::write(folder, &machine)
            }
            _ => Ok(()),
        }
    }

    /// Its line: the protocol under `/v1`, and under `/bench` what only a simulated machine can be told.
    pub fn router(&self) -> Router {
        let protocol = Router::new()
            .route("/v1/status", get(status))
            .route("/v1/files/{name}", put(keep))
            .route("/v1/commands", post(tell))
            .route("/v1/commands/{id}", get(answered))
            .layer(DefaultBodyLimit::max(LARGEST))
            .layer(middleware::from_fn_with_state(self.clone(), through));
        let bench = Router::new()
            .route("/bench/speed", post(speed))
            .route("/bench/fault", post(fault))
            .route("/bench/fill", post(fill));
        protocol
            .merge(bench)
            .layer(middleware::from_fn(no_browser))
            .with_state(self.clone())
    }

    /// Answers on a line, and lets time go by, until `stop` ends.
    ///
    /// # Errors
    /// [`SimError`] of the line or the folder.
    pub async fn serve(
        self,
        listener: TcpListener,
        stop: impl Future<Output = ()> + Send + 'static,
    ) -> Result<(), SimError> {
        let ticking = self.clone();
        let clock = async move {
            let mut last = Instant::now();
            let mut ticks = tokio::time::interval(TICK);
            loop {
                ticks.tick().await;
                let now = Instant::now();
                ticking.tick((now - last).as_secs_f64())?;
                last = now;
            }
        };
        let router = self.router();
        let line = async move { axum::serve(listener, router).await.map_err(SimError::Line) };
        tokio::select! {
            broke = clock => broke,
            ended = line => ended,
            () = stop => Ok(()),
        }
    }
}

/// A page that is open in a browser can send requests to this machine: what comes from one, or asks for another name
/// than this machine's, is none of the server's it speaks with.
async fn no_browser(request: Request, next: Next) -> Response {
    let headers = request.headers();
    let mut hosts = headers.get_all(header::HOST).iter();
    let own = match (hosts.next().map(|h| h.to_str()), hosts.next()) {
        (Some(Ok(host)), None) => is_own(host),
        _ => false,
    };
    let by_a_page = headers.contains_key(header::ORIGIN) || headers.contains_key("sec-fetch-site");
    if !own || by_a_page {
        let why = "this printer is asked by its own address, and by no page of a browser";
        return Refused(StatusCode::FORBIDDEN, why.to_owned()).into_response();
    }
    next.run(request).await
}

/// A name of this machine, with a port or without.
fn is_own(host: &str) -> bool {
    let name = match host.rsplit_once(':') {
        Some((name, port)) if port.bytes().all(|b| b.is_ascii_digit()) => name,
        _ => host,
    };
    let address = name.trim_matches(['[', ']']).parse::<std::net::IpAddr>();
    name.eq_ignore_ascii_case("localhost") || address.is_ok_and(|ip| ip.is_loopback())
}

/// What a broken line lets through. Who waits for an answer that is lost waits until they give up.
async fn through(State(sim): State<Sim>, request: Request, next: Next) -> Response {
    match sim.look(Machine::through) {
        Through::All => next.run(request).await,
        Through::InOnly => {
            drop(next.run(request).await);
            std::future::pending().await
        }
        Through::Nothing => std::future::pending().await,
    }
}

async fn status(State(sim): State<Sim>) -> Json<Says> {
    Json(sim.look(Machine::says))
}

async fn keep(
    State(sim): State<Sim>,
    At(name): At<String>,
    body: Bytes,
) -> Result<Json<KeptFile>, Refused> {
    let kept = sim.with(|m| m.keep(&name, &body))?;
    let checksum = kept.map_err(|why| Refused(StatusCode::UNPROCESSABLE_ENTITY, why))?;
    Ok(Json(KeptFile { name, checksum }))
}

async fn tell(State(sim): State<Sim>, Json(said): Json<Numbered>) -> Result<Json<Answer>, Refused> {
    Ok(Json(sim.with(|m| m.tell(&said.id, &said.told))?))
}

async fn answered(State(sim): State<Sim>, At(id): At<String>) -> Result<Json<Answer>, Refused> {
    let known = sim.look(|m| m.answered(&id).cloned());
    let unknown = || {
        Refused(
            StatusCode::NOT_FOUND,
            "no such command ever came".to_owned(),
        )
    };
    Ok(Json(known.ok_or_else(unknown)?))
}

async fn speed(State(sim): State<Sim>, Json(of): Json<Speed>) -> Result<StatusCode, Refused> {
    sim.with(|m| m.goes(of.speed))?;
    Ok(StatusCode::NO_CONTENT)
}

async fn fill(State(sim): State<Sim>, Json(of): Json<Fill>) -> Result<StatusCode, Refused> {
    sim.with(|m| m.fill(of.ml))?;
    Ok(StatusCode::NO_CONTENT)
}

async fn fault(State(sim): State<Sim>, Json(of): Json<AtLayer>) -> Result<StatusCode, Refused> {
    sim.with(|m| m.strike(of))?;
    Ok(StatusCode::NO_CONTENT)
}
