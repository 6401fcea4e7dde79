//! Connected printers from outside: a new adapter in a few lines, lost answers, and what no tick helps against.

use std::collections::HashMap;
use std::sync::{Arc, LazyLock, Mutex};
use std::time::Duration;

use async_trait::async_trait;
use wembrit_core::flow::{Plate, PlateState, Told as ToldFigures};
use wembrit_core::ids::ProjectId;
use wembrit_core::link::says::{FileSaid, JobSaid};
use wembrit_core::link::{Answer, Job, MachineState, Says, Told};
use wembrit_store::queries::{links, plates};
use wembrit_store::{Conn, commands};
use wembrit_web::Settings;
use wembrit_web::printers::link::Links;
use wembrit_web::printers::{Adapters, LinkError, Machine};

use crate::app::{TICKED, TestApp};

/// A printer that reads another file, a line of text, and is told by a wire of its own; answers get lost where asked.
struct Paper(Arc<Mutex<Wire>>);

#[derive(Default)]
struct Wire {
    files: Vec<FileSaid>,
    job: Option<JobSaid>,
    state: Option<MachineState>,
    answers: HashMap<String, Answer>,
    begun: u64,
    resin_ml: f64,
    /// So many answers are lost after it has done what it was told.
    lost: u32,
    asked: u32,
}

impl Paper {
    fn on<T>(&self, work: impl FnOnce(&mut Wire) -> T) -> T {
        work(&mut self.0.lock().unwrap())
    }
}

#[async_trait]
impl Machine for Paper {
    async fn says(&self) -> Result<Says, LinkError> {
        Ok(self.on(|w| Says {
            machine: "paper".into(),
            boot: "1".into(),
            jobs: w.begun,
            state: w.state.unwrap_or(MachineState::Idle),
            trouble: None,
            job: w.job.clone(),
            layer: 0,
            printed_s: 0.0,
            since_s: 0.0,
            room_c: 22.0,
            resin_ml: w.resin_ml,
            travel_mm: 500.0,
            files: w.files.clone(),
            speed: 1.0,
        }))
    }

    async fn keep(&self, name: &str, file: Vec<u8>) -> Result<FileSaid, LinkError> {
        let checksum = blake3::hash(&file).to_hex().to_string();
        let kept = FileSaid {
            name: name.into(),
            checksum,
        };
        self.on(|w| w.files.push(kept.clone()));
        Ok(kept)
    }

    async fn tell(&self, id: &str, told: &Told) -> Result<Answer, LinkError> {
        self.on(|w| {
            w.asked += 1;
            let number = w.begun + 1;
            let known = w.answers.get(id).cloned();
            let answer = known.unwrap_or_else(|| {
                match told {
                    Told::Start(key) => {
                        assert_eq!(key.number, number);
                        w.begun = number;
                        w.job = Some(JobSaid {
                            number,
                            boot: key.boot.clone(),
                            file: key.file.clone(),
                            checksum: key.checksum.clone(),
                        });
                        w.state = Some(MachineState::Printing);
                    }
                    Told::Pause(_) => w.state = Some(MachineState::Paused),
                    Told::Resume(_) => w.state = Some(MachineState::Printing),
                    Told::Stop(_) => w.state = Some(MachineState::Stopped),
                    Told::Clear(_) => (w.state, w.job) = (None, None),
                }
                Answer {
                    done: true,
                    why: String::new(),
                    number: w.begun,
                    layer: 0,
                }
            });
            w.answers.insert(id.into(), answer.clone());
            w.lost = w.lost.saturating_sub(1);
            if w.lost > 0 {
                return Err(match w.lost % 2 {
                    0 => LinkError::Silent("the wire is cut".into()),
                    _ => LinkError::Unread,
                });
            }
            Ok(answer)
        })
    }

    fn file(&self, job: &Job) -> Vec<u8> {
        format!("{} of {} layers", job.name, job.layers()).into_bytes()
    }
}

/// Wires by the names they go by.
static WIRES: LazyLock<Mutex<HashMap<String, Arc<Mutex<Wire>>>>> = LazyLock::new(Mutex::default);

/// The demo with a plate that waits, and a printer of its own kind for it.
struct Shop {
    app: TestApp,
    plate: Plate,
    wire: Arc<Mutex<Wire>>,
    _links: Links,
}

impl Shop {
    async fn new(wire_name: &str) -> Self {
        let wire = Arc::new(Mutex::new(Wire {
            resin_ml: 5000.0,
            ..Wire::default()
        }));
        let address = format!("paper:{wire_name}");
        WIRES.lock().unwrap().insert(address.clone(), wire.clone());
        let adapters = Adapters::default().with("paper:", |at, _| {
            let wire = WIRES.lock().unwrap()[at].clone();
            Ok(Arc::new(Paper(wire)))
        });
        let app = TestApp::demo_with(Settings {
            adapters,
            ..Settings::default()
        });
        let all = app
            .store
            .read(|c| plates::accepted(c, ProjectId(1)))
            .unwrap();
        let busy: Vec<_> = all
            .iter()
            .filter(|p| p.state == PlateState::Running)
            .collect();
        let free = |p: &&Plate| busy.iter().all(|b| b.printer != p.printer);
        let waits = all
            .iter()
            .filter(|p| p.state == PlateState::Planned)
            .find(free);
        let plate = waits.expect("a plate waits for a free printer").clone();
        let links = Links::start(app.app.clone());
        let at = plate.printer;
        app.post(&format!("/printers/{at}/vat"), "found=nothing")
            .await
            .is(303);
        app.post(
            &format!("/printers/{at}/link"),
            &format!("address={address}"),
        )
        .await
        .is(303);
        let shop = Self {
            app,
            plate,
            wire,
            _links: links,
        };
        shop.until("/run", "not in the memory").await;
        shop
    }

    async fn post(&self, what: &str, body: &str) -> crate::app::Answer {
        self.app
            .post(&format!("/plates/{}{what}", self.plate.id), body)
            .await
    }

    /// Asks a page of the plate again until it says something.
    async fn until(&self, page: &str, words: &str) {
        let path = format!("/plates/{}{page}", self.plate.id);
        let mut said = String::new();
        for _ in 0..200 {
            said = self.app.get(&path).await.body;
            if said.contains(words) {
                return;
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        panic!("{path} never says '{words}': {said}");
    }

    fn on<T>(&self, work: impl FnOnce(&mut Wire) -> T) -> T {
        work(&mut self.wire.lock().unwrap())
    }

    fn runs(&self) -> i64 {
        let told = self
            .app
            .store
            .read(|c| links::told(c, self.plate.id))
            .unwrap();
        let starts = told.iter().filter(|t| t.kind.as_str() == "start").count();
        starts as i64
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_plate_is_sent_started_held_and_taken_off() {
    let shop = Shop::new("whole").await;
    // Nothing is started before its file is there, whatever is ticked.
    shop.post("/start", TICKED)
        .await
        .is(422)
        .says("does not hold plate-");
    shop.post("/send", "").await.is(303);
    shop.until("/run", "Send it again").await;
    shop.post("/start", TICKED).await.is(303);
    shop.until("/run", "It prints").await;
    shop.post("/done", "")
        .await
        .is(422)
        .says("says that it is printing: stop it first");
    shop.post("/pause", "").await.is(303);
    shop.until("/live", "Held at layer").await;
    shop.until("/run", "It goes on").await;
    shop.post("/stop", "").await.is(303);
    shop.until("/live", "Stopped at layer").await;
    shop.post("/done", "").await.is(303);
    shop.until("/run", "Judge its copies").await;
    for _ in 0..200 {
        if shop.on(|w| w.job.is_none()) {
            break;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    assert!(shop.on(|w| w.job.is_none()), "it was told that it is free");
    assert_eq!(shop.on(|w| w.begun), 1);
}

/// Pressed three times, and four answers lost after it was done: one command, one job, one run.
#[tokio::test(flavor = "multi_thread")]
async fn a_lost_link_makes_no_second_run() {
    let shop = Shop::new("lost").await;
    shop.post("/send", "").await.is(303);
    shop.until("/run", "Send it again").await;
    shop.on(|w| (w.lost, w.asked) = (5, 0));
    for _ in 0..3 {
        shop.post("/start", TICKED).await.is(303);
    }
    shop.until("/run", "It prints").await;
    assert_eq!(shop.on(|w| (w.begun, w.asked >= 5)), (1, true));
    assert_eq!(shop.runs(), 1);
}

/// What is only known of a plate later, here by another program's word, makes no other file of what it was sent.
#[tokio::test(flavor = "multi_thread")]
async fn what_is_known_later_is_no_other_file() {
    let shop = Shop::new("later").await;
    shop.post("/send", "").await.is(303);
    shop.until("/run", "byte for byte").await;
    let told = ToldFigures {
        number: shop.plate.number,
        seconds: shop.plate.seconds,
        ml: Some(shop.plate.resin_ml + 7.0),
    };
    let tell = |c: &mut Conn| commands::tell_plates::tell(c, ProjectId(1), &[told]);
    shop.app.store.write(tell).unwrap();
    shop.until("/run", "byte for byte").await;
    shop.post("/start", TICKED).await.is(303);
    shop.until("/run", "It prints").await;
}

/// A byte of what it holds is another, or a millilitre is missing: nothing is started, whatever is ticked and said.
#[tokio::test(flavor = "multi_thread")]
async fn no_tick_helps_against_its_word() {
    let shop = Shop::new("short").await;
    shop.post("/send", "").await.is(303);
    shop.until("/run", "Send it again").await;
    let page = shop
        .app
        .get(&format!("/plates/{}/run", shop.plate.id))
        .await;
    page.says("byte for byte");
    let takes = shop.plate.resin_ml;
    let least = shop.app.store.read(|c| {
        let printers = wembrit_store::queries::printers::list(c)?;
        Ok(wembrit_store::queries::stores::vat_limits(c, &printers)?[&shop.plate.printer][0])
    });
    let least = least.unwrap();
    shop.on(|w| w.resin_ml = takes + least - 1.0);
    tokio::time::sleep(Duration::from_millis(1500)).await;
    shop.post("/start", TICKED)
        .await
        .is(422)
        .says("1.0 too few: fill it up first");
    shop.on(|w| {
        w.resin_ml = takes + least;
        w.files[0].checksum.replace_range(0..1, "z");
    });
    tokio::time::sleep(Duration::from_millis(1500)).await;
    shop.post("/start", TICKED)
        .await
        .is(422)
        .says("is another file: send it again");
    assert_eq!((shop.on(|w| w.begun), shop.runs()), (0, 0));
}

#[tokio::test]
async fn an_address_that_is_none_is_refused_in_words() {
    let app = TestApp::demo();
    for (address, says) in [
        ("the+left+one", "it begins with http://"),
        ("http%3A%2F%2Fme%3Ax%40127.0.0.1%3A1", "write one such as"),
        ("http%3A%2F%2F127.0.0.1", "write one such as"),
        ("", "it begins with http://"),
        (
            "http%3A%2F%2F93.184.216.34%3A80",
            "--allow-host 93.184.216.34",
        ),
        (
            "http%3A%2F%2Fprinter.example%3A80",
            "is not in your own network",
        ),
    ] {
        let answer = app
            .post("/printers/1/link", &format!("address={address}"))
            .await;
        answer.is(422).says(says);
    }
    app.post("/plates/1/send", "")
        .await
        .says("is not connected");
    app.post("/demo/speed/60", "").await.is(404);
}

/// One machine is one printer, by its own identity and however its address is spelled.
#[tokio::test(flavor = "multi_thread")]
async fn a_machine_is_connected_once() {
    let shop = Shop::new("once").await;
    let other = (1..=3).find(|n| *n != shop.plate.printer.0).unwrap();
    let twin = Arc::new(Mutex::new(Wire::default()));
    WIRES.lock().unwrap().insert("paper:twin".into(), twin);
    let connect = || {
        let path = format!("/printers/{other}/link");
        let app = &shop.app;
        async move { app.post(&path, "address=paper:twin").await }
    };
    connect().await.is(422).says("one machine is one printer");
    // Once the first lets go of it, it is the other's.
    let first = format!("/printers/{}/unlink", shop.plate.printer);
    shop.app.post(&first, "").await.is(303);
    for _ in 0..200 {
        if connect().await.status.as_u16() == 303 {
            return;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    panic!("it stays the first's");
}
