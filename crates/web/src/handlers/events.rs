//! News as a stream: topics only. A browser holds one stream for all of its tabs; pages fetch
//! again what depends on a topic.

use std::convert::Infallible;
use std::time::Duration;

use axum::extract::State;
use axum::response::sse::{Event, KeepAlive};
use axum::response::{IntoResponse, Sse};
use tokio::sync::broadcast::error::RecvError;
use tokio::sync::mpsc;
use tokio_stream::wrappers::ReceiverStream;

use crate::state::App;

pub(crate) async fn stream(State(app): State<App>) -> impl IntoResponse {
    let (mut news, mut stopping) = app.listen();
    let (sender, receiver) = mpsc::channel::<Result<Event, Infallible>>(16);
    tokio::spawn(async move {
        // The first word: whoever hears it knows that nothing is missed from here on.
        let mut next = Some("hello");
        loop {
            if let Some(topic) = next.take()
                && sender
                    .send(Ok(Event::default().event("news").data(topic)))
                    .await
                    .is_err()
            {
                return;
            }
            tokio::select! {
                heard = news.recv() => match heard {
                    Ok(topic) => next = Some(topic.as_str()),
                    // Too much at once: everything may have changed.
                    Err(RecvError::Lagged(_)) => next = Some("hello"),
                    Err(RecvError::Closed) => return,
                },
                _ = stopping.changed() => return,
                () = sender.closed() => return,
            }
        }
    });
    Sse::new(ReceiverStream::new(receiver))
        .keep_alive(KeepAlive::new().interval(Duration::from_secs(20)))
}
