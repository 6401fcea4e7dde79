//! The listener: who may be connected for how long, and who has to make room for others.
//!
//! A maker's own page must open while somebody holds a thousand lines that say nothing. So a new
//! line always finds room: who has said nothing for longest leaves first, and nobody leaves who is
//! let in and waits for an answer.

mod crowd;
mod peer;

pub use crowd::Room;
pub(crate) use crowd::Seat;
pub(crate) use peer::Peer;

use std::convert::Infallible;
use std::future::Future;
use std::io;
use std::sync::Arc;
use std::time::Duration;

use axum::Router;
use axum::body::Body;
use axum::http::Request;
use http_body_util::BodyExt;
use hyper::body::Incoming;
use hyper::server::conn::http1;
use hyper::service::service_fn;
use hyper_util::rt::{TokioIo, TokioTimer};
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::watch;
use tower::ServiceExt;
use tower_http::timeout::TimeoutBody;

use crowd::Crowd;

/// The head of a request has so long to arrive, and a line may say nothing between two requests.
const HEAD: Duration = Duration::from_secs(15);
/// Between two pieces of a body.
const BODY: Duration = Duration::from_secs(30);
/// How long running requests have when the server ends.
const GRACE: Duration = Duration::from_secs(10);

/// Serves until `shutdown` resolves; what is under way then has ten seconds.
/// A listener that breaks is tried again.
pub(crate) async fn serve(
    listener: TcpListener,
    router: Router,
    room: Room,
    shutdown: impl Future<Output = ()>,
) {
    let crowd = Crowd::new(room);
    let (ending, ended) = watch::channel(false);
    let mut shutdown = std::pin::pin!(shutdown);
    loop {
        let taken = tokio::select! {
            taken = listener.accept() => taken,
            () = &mut shutdown => break,
        };
        match taken {
            Ok((stream, address)) => {
                if let Some(seat) = crowd.join(address.ip()) {
                    let peer = Peer(address.ip());
                    tokio::spawn(one(stream, router.clone(), peer, seat, ended.clone()));
                }
            }
            Err(error) if is_the_lines_own(&error) => {}
            Err(error) => {
                tracing::warn!("no line could be taken: {error}");
                // Most likely there are too many: somebody leaves.
                crowd.make_room();
                tokio::time::sleep(Duration::from_millis(20)).await;
            }
        }
    }
    drop(listener);
    drop(ended);
    ending.send_replace(true);
    let _ = tokio::time::timeout(GRACE, ending.closed()).await;
}

/// The other side went away before it was greeted.
fn is_the_lines_own(error: &io::Error) -> bool {
    matches!(
        error.kind(),
        io::ErrorKind::ConnectionRefused
            | io::ErrorKind::ConnectionAborted
            | io::ErrorKind::ConnectionReset
    )
}

/// Goes with the body of a request: when that has come, or nobody wants it, all is heard.
struct Heard(Arc<Seat>);

impl Drop for Heard {
    fn drop(&mut self) {
        self.0.is_heard();
    }
}

/// One line, until it ends, has to leave, or the server ends.
async fn one(
    stream: TcpStream,
    router: Router,
    peer: Peer,
    seat: Arc<Seat>,
    mut ending: watch::Receiver<bool>,
) {
    let here = Arc::clone(&seat);
    let service = service_fn(move |request: Request<Incoming>| {
        let asking = here.asks();
        let heard = Heard(Arc::clone(&here));
        let mut request = request.map(|body| {
            let body = TimeoutBody::new(BODY, body).map_frame(move |frame| {
                let _heard = &heard;
                frame
            });
            Body::new(body)
        });
        request.extensions_mut().insert(peer);
        request.extensions_mut().insert(Arc::clone(&here));
        let answer = router.clone().oneshot(request);
        async move {
            let answer = answer.await?;
            // It asks until the last of its answer is sent.
            Ok::<_, Infallible>(answer.map(move |body| {
                Body::new(body.map_frame(move |frame| {
                    let _asking = &asking;
                    frame
                }))
            }))
        }
    });
    let mut http = http1::Builder::new();
    http.timer(TokioTimer::new()).header_read_timeout(HEAD);
    let mut line = std::pin::pin!(http.serve_connection(TokioIo::new(stream), service));
    tokio::select! {
        // How a line ends is its own affair.
        _ = &mut line => return,
        () = seat.has_to_leave() => return,
        _ = ending.wait_for(|ends| *ends) => line.as_mut().graceful_shutdown(),
    }
    let _ = line.await;
}
