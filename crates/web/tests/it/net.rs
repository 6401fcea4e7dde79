//! The listener itself, on a real socket.

use std::time::Duration;

use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::oneshot;
use tokio::time::timeout;
use wembrit_store::Store;
use wembrit_web::{Room, Settings, launch};

const ASKS: &[u8] = b"GET /workshop HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n";

/// Asks for a page over a line, and reads the first of it.
async fn first_line(line: &mut TcpStream) -> String {
    line.write_all(ASKS).await.expect("sent");
    let mut answer = Vec::new();
    line.read_to_end(&mut answer).await.expect("answered");
    let text = String::from_utf8_lossy(&answer);
    text.lines().next().unwrap_or_default().to_owned()
}

/// A thousand lines that say nothing, or half of something, leave the owner's page as it was: the longest silent
/// ones leave, and one on which somebody waits for a whole answer stays.
#[tokio::test(flavor = "multi_thread")]
async fn silent_lines_make_room() {
    let folder = tempfile::tempdir().expect("a folder");
    let store = Store::open(&folder.path().join("w.sqlite")).expect("a data file");
    let listener = TcpListener::bind("127.0.0.1:0").await.expect("a port");
    let address = listener.local_addr().expect("an address");
    let settings = Settings {
        room: Room {
            in_all: 40,
            from_one: 40,
        },
        ..Settings::default()
    };
    let (stop, stopped) = oneshot::channel::<()>();
    let server = tokio::spawn(launch(store, settings, listener, async {
        let _ = stopped.await;
    }));
    let mut news = TcpStream::connect(address).await.expect("a line");
    let asks = b"GET /events HTTP/1.1\r\nHost: localhost\r\n\r\n";
    news.write_all(asks).await.expect("sent");
    let mut heard = vec![0; 4096];
    assert!(news.read(&mut heard).await.expect("the head of it") > 0);

    let mut silent = Vec::new();
    for n in 0..1000 {
        let mut line = TcpStream::connect(address).await.expect("a line");
        if n % 2 == 0 {
            line.write_all(b"GET / HTTP/1.1\r\nHost: loc")
                .await
                .expect("sent");
        }
        silent.push(line);
    }
    let mut own = TcpStream::connect(address).await.expect("a line");
    let answered = timeout(Duration::from_secs(20), first_line(&mut own)).await;
    assert_eq!(answered.expect("it finds room"), "HTTP/1.1 200 OK");
    // The first of the silent ones was closed; the news goes on.
    let closed = timeout(Duration::from_secs(20), silent[0].read(&mut heard)).await;
    assert!(matches!(closed.expect("it was closed"), Ok(0) | Err(_)));
    let more = timeout(Duration::from_millis(300), news.read(&mut heard)).await;
    assert!(!matches!(more, Ok(Ok(0) | Err(_))), "the news was closed");
    stop.send(()).expect("it still serves");
    let ended = timeout(Duration::from_secs(20), server).await;
    ended
        .expect("it ends")
        .expect("no panic")
        .expect("ends well");
}
