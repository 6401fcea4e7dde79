//! The listener itself, on a real socket.

use std::net::SocketAddr;
use std::path::Path;
use std::time::Duration;

use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::oneshot;
use tokio::task::JoinHandle;
use tokio::time::timeout;
use wembrit_store::Store;
use wembrit_web::{LaunchError, Room, Settings, launch};

const ASKS: &[u8] = b"GET /workshop HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n";

/// Asks for a page over a line, and reads the first of it.
async fn first_line(line: &mut TcpStream) -> String {
    line.write_all(ASKS).await.expect("sent");
    let mut answer = Vec::new();
    line.read_to_end(&mut answer).await.expect("answered");
    let text = String::from_utf8_lossy(&answer);
    text.lines().next().unwrap_or_default().to_owned()
}

/// A server on a socket of its own.
struct Served {
    address: SocketAddr,
    stop: oneshot::Sender<()>,
    server: JoinHandle<Result<(), LaunchError>>,
}

impl Served {
    async fn start(file: &Path) -> Self {
        let store = Store::open(file).expect("a data file");
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
        Self {
            address,
            stop,
            server,
        }
    }

    async fn stop(self) {
        self.stop.send(()).expect("it still serves");
        let ended = timeout(Duration::from_secs(20), self.server).await;
        ended
            .expect("it ends")
            .expect("no panic")
            .expect("ends well");
    }
}

/// A thousand lines that say nothing, or half of something, leave the owner's page as it was: the longest silent
/// ones leave, and one on which somebody waits for a whole answer stays.
#[tokio::test(flavor = "multi_thread")]
async fn silent_lines_make_room() {
    let folder = tempfile::tempdir().expect("a folder");
    let served = Served::start(&folder.path().join("w.sqlite")).await;
    let address = served.address;
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
    served.stop().await;
}

/// A file that was not closed is looked through after the start, beside the pages; where it is damaged every page says
/// so, and what can be taken out still can.
#[tokio::test(flavor = "multi_thread")]
async fn a_file_that_was_not_closed_is_looked_through() {
    let folder = tempfile::tempdir().expect("a folder");
    let [made, file] = ["made.sqlite", "w.sqlite"].map(|name| folder.path().join(name));
    let store = Store::open(&made).expect("a data file");
    wembrit_demo::fill(&store, crate::app::NOW).expect("the demo");
    store.copy_to(&file).expect("a copy");
    let mut bytes = std::fs::read(&file).expect("read");
    // Somewhere in the meshes, which no page asks for at once.
    let torn = bytes.len() / 2 / 4096 * 4096;
    bytes[torn..torn + 4096].fill(0x5a);
    std::fs::write(&file, bytes).expect("written");
    // As after a power cut: a log lies there that nobody folded in. One without a head holds nothing.
    std::fs::write(folder.path().join("w.sqlite-wal"), [0; 64]).expect("written");
    let served = Served::start(&file).await;
    let ask = async |path: &str| {
        let mut line = TcpStream::connect(served.address).await.expect("a line");
        let asks = format!("GET {path} HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n");
        line.write_all(asks.as_bytes()).await.expect("sent");
        let mut answer = Vec::new();
        line.read_to_end(&mut answer).await.expect("answered");
        String::from_utf8_lossy(&answer).into_owned()
    };
    let found = async {
        loop {
            let page = ask("/workshop").await;
            if page.starts_with("HTTP/1.1 503") {
                return page;
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    };
    let page = timeout(Duration::from_secs(60), found).await;
    let page = page.expect("the damage is found");
    assert!(
        page.contains("is damaged") && page.contains("wembrit restore"),
        "{page}"
    );
    let table = ask("/workshop/archive/tables/units.csv").await;
    assert!(table.starts_with("HTTP/1.1 200"), "{table}");
    served.stop().await;
}

/// A server that is asked to end leaves a file that was closed.
#[tokio::test(flavor = "multi_thread")]
async fn a_server_that_ends_closes_its_file() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("w.sqlite");
    Served::start(&file).await.stop().await;
    assert!(Store::open(&file).expect("a data file").was_closed());
}
