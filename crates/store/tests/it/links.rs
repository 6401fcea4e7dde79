//! What connected printers are told and answer: one job, one run, whatever breaks off.

use rstest::rstest;
use wembrit_core::flow::PlateState;
use wembrit_core::ids::{PlateId, PrinterId};
use wembrit_core::link::says::JobSaid;
use wembrit_core::link::{
    Answer, Command, CommandKind, CommandState, JobKey, MachineState, Says, Told,
};
use wembrit_core::running::{Answers, CheckItem, Linked};
use wembrit_core::workshop::Printer;
use wembrit_store::commands::links::{self, Telling};
use wembrit_store::commands::print_times::{self, Printed};
use wembrit_store::commands::printers::PrinterChange;
use wembrit_store::commands::run_plate::{self, StartSaid};
use wembrit_store::queries::{links as known, pages, plates};
use wembrit_store::{Conn, StoreError, commands};

use crate::fresh::{Fresh, NOW};

const MIN: i64 = 60_000;
const AT: &str = "http://127.0.0.1:7611";

/// A plate that waits on a connected printer.
struct Bench {
    fresh: Fresh,
    plate: PlateId,
}

impl Bench {
    fn new() -> Self {
        let fresh = Fresh::new(4);
        let plan = fresh.draft().unwrap();
        let accept = |c: &mut Conn| commands::accept_plan::accept(c, plan, NOW);
        fresh.store.write(accept).unwrap();
        let all = fresh.store.read(|c| plates::accepted(c, fresh.project));
        let plate = all.unwrap()[0].id;
        let bench = Self { fresh, plate };
        bench.write(|c| {
            let printer = plates::load(c, plate)?.printer;
            commands::vat_checks::look(c, printer, "nothing", NOW)?;
            links::connect(c, printer, AT)
        });
        bench
    }

    fn write<T>(&self, work: impl FnOnce(&mut Conn) -> Result<T, StoreError>) -> T {
        self.fresh.store.write(work).unwrap()
    }

    fn refuses<T: std::fmt::Debug>(
        &self,
        work: impl FnOnce(&mut Conn) -> Result<T, StoreError>,
        words: &str,
    ) {
        match self.fresh.store.write(work) {
            Err(StoreError::Refused(why)) => assert!(why.contains(words), "{why}"),
            other => panic!("{other:?}"),
        }
    }

    fn start(&self) {
        self.write(|c| links::tell_start(c, self.plate, &said(), (ready(), key(1)), (NOW, NOW)));
    }

    fn newest(&self) -> Command {
        let newest = self.fresh.store.read(|c| known::newest(c, self.plate));
        newest.unwrap().unwrap()
    }

    fn all(&self) -> Vec<Command> {
        let all = self.fresh.store.read(|c| known::told(c, self.plate));
        all.unwrap()
    }

    fn leave(&self) -> Command {
        let command = self.newest();
        self.write(|c| links::leaves(c, &command, NOW));
        command
    }

    fn answer(&self, command: &Command, answer: &Answer) {
        self.write(|c| links::answered(c, &command.uid, answer, (NOW, NOW + MIN)));
    }

    fn state(&self) -> PlateState {
        self.fresh
            .store
            .read(|c| plates::load(c, self.plate))
            .unwrap()
            .state
    }

    fn hear(&self, state: MachineState, number: u64) -> bool {
        self.write(|c| {
            let printer = plates::load(c, self.plate)?.printer;
            links::heard(c, printer, &says(state, number), NOW + 5 * MIN)
        })
    }
}

/// The job of its machine with this number.
fn key(number: u64) -> JobKey {
    JobKey {
        machine: "heron-1".into(),
        boot: "1".into(),
        number,
        ..JobKey::of_file("plate-1", "ab")
    }
}

fn said() -> StartSaid {
    StartSaid {
        vat_ml: None,
        room_c: None,
        answers: Answers {
            ticked: CheckItem::ALL.to_vec(),
            passed: Vec::new(),
        },
    }
}

fn ready() -> Linked {
    Linked {
        not_ready: Vec::new(),
        vat_ml: Some(400.0),
        room_c: Some(22.0),
    }
}

fn done(number: u64) -> Answer {
    Answer {
        done: true,
        why: String::new(),
        number,
        layer: 0,
    }
}

fn says(state: MachineState, number: u64) -> Says {
    Says {
        machine: "heron-1".into(),
        boot: "1".into(),
        jobs: number,
        state,
        trouble: None,
        job: (state != MachineState::Idle).then(|| JobSaid {
            number,
            boot: "1".into(),
            file: "plate-1".into(),
            checksum: "ab".into(),
        }),
        layer: 40,
        printed_s: 600.0,
        since_s: 700.0,
        room_c: 22.0,
        resin_ml: 390.0,
        travel_mm: 200.0,
        files: Vec::new(),
        speed: 1.0,
    }
}

/// Pressed three times, sent three times, answered three times: one command, one job, one run.
#[test]
fn a_start_is_one_run_however_often_it_is_said() {
    let bench = Bench::new();
    for _ in 0..3 {
        bench.start();
    }
    assert_eq!(bench.state(), PlateState::Planned);
    for _ in 0..3 {
        bench.leave();
    }
    let command = bench.newest();
    for _ in 0..3 {
        bench.answer(&command, &done(5));
    }
    assert_eq!(bench.state(), PlateState::Running);
    assert_eq!(bench.all().len(), 1);
    let run = bench.fresh.store.read(|c| {
        let run = plates::runs_of(c, &[bench.plate])?
            .remove(&bench.plate)
            .unwrap();
        let machine = known::of_run(c, run.id)?.unwrap();
        Ok((run, machine))
    });
    let (run, machine) = run.unwrap();
    assert_eq!(
        (run.started_at_ms, run.vat_ml, run.room_c),
        (NOW + MIN, Some(400.0), Some(22.0))
    );
    assert_eq!((machine.job, machine.began_ml), (key(5), Some(400.0)));
}

/// What never left may be taken back; what left may not, and nothing else is told until it is answered.
#[test]
fn only_what_never_left_is_withdrawn() {
    let bench = Bench::new();
    bench.start();
    bench.write(|c| links::withdraw(c, bench.plate));
    assert_eq!(bench.newest().state, CommandState::Withdrawn);
    bench.start();
    let command = bench.leave();
    bench.refuses(|c| links::withdraw(c, bench.plate), "has left already");
    let send = Telling {
        plate: bench.plate,
        kind: CommandKind::Send,
        about: JobKey::of_file("plate-1", "ab"),
        job: None,
    };
    bench.refuses(
        |c| links::tell(c, &send, NOW),
        "was told to start and has not answered",
    );
    let printer = command.printer;
    bench.refuses(|c| links::disconnect(c, printer), "has not answered");
    bench.refuses(
        |c| links::connect(c, printer, "http://127.0.0.1:9"),
        "has not answered",
    );
    // A machine that is gone for good.
    bench.write(|c| {
        links::give_up(c, printer)?;
        links::disconnect(c, printer)
    });
    assert_eq!(
        (bench.newest().state, bench.state()),
        (CommandState::Refused, PlateState::Planned)
    );
    bench.refuses(|c| links::tell(c, &send, NOW), "is not connected");
}

/// A refusal is kept with its reason, the plate waits, and it may be tried again.
#[test]
fn a_printer_may_refuse() {
    let bench = Bench::new();
    bench.start();
    let command = bench.leave();
    let no = Answer {
        done: false,
        why: "its vat is empty".into(),
        number: 0,
        layer: 0,
    };
    bench.answer(&command, &no);
    let kept = bench.newest();
    assert_eq!(
        (kept.state, kept.why.as_str()),
        (CommandState::Refused, "its vat is empty")
    );
    assert_eq!(bench.state(), PlateState::Planned);
    bench.start();
    assert_eq!(bench.all().len(), 2);
}

/// Its own word stands against it: nothing is written down.
#[test]
fn what_stands_against_a_start_keeps_it_from_being_told() {
    let bench = Bench::new();
    let short = Linked {
        not_ready: vec![wembrit_core::link::NotReady::ResinShort {
            holds_ml: 20.0,
            short_ml: 1.0,
        }],
        ..ready()
    };
    bench.refuses(
        |c| links::tell_start(c, bench.plate, &said(), (short, key(1)), (NOW, NOW)),
        "1.0 too few",
    );
    assert_eq!(bench.all(), []);
}

/// The plate was given back before the answer came: the books say why they cannot follow, and make no run.
#[test]
fn an_answer_the_books_cannot_follow_is_told() {
    let bench = Bench::new();
    bench.start();
    let command = bench.leave();
    bench.write(|c| commands::release_plate::release(c, bench.plate, NOW));
    bench.answer(&command, &done(1));
    let kept = bench.newest();
    assert_eq!(kept.state, CommandState::Done);
    assert!(!kept.why.is_empty());
    assert_eq!(bench.state(), PlateState::Released);
}

/// Held at the machine it is held in the books; taken off in the books the machine is told that it is free, once.
#[rstest]
#[case::taken_off(MachineState::Ended, CommandKind::Clear)]
#[case::taken_off_while_it_prints(MachineState::Printing, CommandKind::Stop)]
fn books_and_machine_follow_each_other(#[case] state: MachineState, #[case] told: CommandKind) {
    let bench = Bench::new();
    bench.start();
    let command = bench.leave();
    bench.answer(&command, &done(5));
    let run = || {
        let all = bench
            .fresh
            .store
            .read(|c| plates::runs_of(c, &[bench.plate]));
        all.unwrap().remove(&bench.plate).unwrap()
    };
    assert!(!bench.hear(MachineState::Printing, 5), "nothing new");
    assert!(bench.hear(MachineState::Paused, 5));
    assert_eq!(run().paused_at_ms, Some(NOW + 5 * MIN));
    assert!(bench.hear(MachineState::Printing, 5));
    assert_eq!(run().paused_at_ms, None);
    // Another job is not this one.
    assert!(!bench.hear(MachineState::Ended, 6));
    let newest = bench.newest().kind;
    assert_eq!(newest, CommandKind::Start);
    bench.hear(state, 5);
    bench.write(|c| run_plate::finish(c, bench.plate, NOW + 10 * MIN, NOW + 10 * MIN));
    assert!(bench.hear(state, 5));
    assert!(!bench.hear(state, 5), "it was told so already");
    let kinds: Vec<CommandKind> = bench.all().iter().map(|c| c.kind).collect();
    assert_eq!(kinds, [CommandKind::Start, told]);
}

/// A new machine at the old one's address, whose count has come as far: it prints for somebody else, and is told
/// nothing, whatever became of our run meanwhile.
#[rstest]
#[case::another_machine(Says { machine: "heron-2".into(), ..says(MachineState::Printing, 5) })]
#[case::another_file(Says { job: says(MachineState::Printing, 5).job.map(|j| JobSaid { checksum: "cd".into(), ..j }), ..says(MachineState::Printing, 5) })]
#[case::ended(Says { machine: "heron-2".into(), ..says(MachineState::Ended, 5) })]
fn a_foreign_print_is_told_nothing(#[case] says: Says) {
    let bench = Bench::new();
    bench.start();
    let command = bench.leave();
    bench.answer(&command, &done(5));
    let hear = |says: &Says| {
        bench.write(|c| {
            let printer = plates::load(c, bench.plate)?.printer;
            links::heard(c, printer, says, NOW + 5 * MIN)
        })
    };
    assert!(!hear(&says));
    bench.write(|c| links::take_off(c, bench.plate, Some(&says), NOW + 10 * MIN));
    assert_eq!(bench.state(), PlateState::Printed);
    assert!(!hear(&says), "nothing follows from it");
    let kinds: Vec<CommandKind> = bench.all().iter().map(|c| c.kind).collect();
    assert_eq!(kinds, [CommandKind::Start]);
}

/// A time that cannot be is a doubt about a figure and keeps no plate on its printer: nothing is learned from it, its
/// sheet asks, and what somebody says ends the doubt. It was there for 600 s.
#[rstest]
#[case::nothing(0.0, true)]
#[case::less_than_nothing(-40.0, true)]
#[case::eighteen_times_the_clock(18.0 * 540.0, true)]
#[case::for_ever(1e308, true)]
#[case::as_it_was(540.0, false)]
fn a_plate_can_always_be_taken_off(#[case] said_s: f64, #[case] doubted: bool) {
    let bench = Bench::new();
    bench.start();
    let command = bench.leave();
    bench.answer(&command, &done(5));
    let ended = Says {
        printed_s: said_s,
        ..says(MachineState::Ended, 5)
    };
    let printer = command.printer;
    bench.write(|c| links::heard(c, printer, &ended, NOW + 10 * MIN));
    bench.write(|c| links::take_off(c, bench.plate, Some(&ended), NOW + 11 * MIN));
    assert_eq!(bench.state(), PlateState::Printed);
    let sheet = || {
        let sheet = bench
            .fresh
            .store
            .read(|c| pages::plates::sheet(c, bench.plate));
        let sheet = sheet.unwrap();
        (sheet.time_doubt.is_some(), sheet.plate.time.is_known())
    };
    assert_eq!(sheet(), (doubted, !doubted));
    bench.write(|c| print_times::say(c, bench.plate, Printed::For(500.0), NOW + 12 * MIN));
    assert_eq!(sheet(), (false, true));
}

/// An order ends with its run: what has not left when the plate is taken off by hand is not told any more, and what
/// has left names its job.
#[test]
fn an_order_ends_with_its_run() {
    let bench = Bench::new();
    bench.start();
    let command = bench.leave();
    bench.answer(&command, &done(5));
    bench.write(|c| links::tell_running(c, bench.plate, CommandKind::Stop, NOW + MIN));
    let stop = bench.newest();
    assert_eq!((stop.state, &stop.job), (CommandState::Written, &key(5)));
    assert_eq!(stop.told(), Some(Told::Stop(key(5))));
    bench.write(|c| links::take_off(c, bench.plate, None, NOW + 2 * MIN));
    assert_eq!(bench.newest().state, CommandState::Withdrawn);
    bench.refuses(
        |c| links::tell_running(c, bench.plate, CommandKind::Stop, NOW + 3 * MIN),
        "was not started from here",
    );
}

/// What was printed is not begun again: no machine is told so.
#[test]
fn a_plate_that_does_not_wait_is_not_started() {
    let bench = Bench::new();
    bench.start();
    let command = bench.leave();
    bench.answer(&command, &done(1));
    let again = || {
        let told = |c: &mut Conn| {
            links::tell_start(c, bench.plate, &said(), (ready(), key(1)), (NOW, NOW))
        };
        bench.fresh.store.write(told)
    };
    assert!(matches!(again(), Err(StoreError::Flow(_))), "it runs");
    bench.write(|c| run_plate::finish(c, bench.plate, NOW + MIN, NOW + MIN));
    assert!(matches!(again(), Err(StoreError::Flow(_))), "it is printed");
    assert_eq!(bench.all().len(), 1);
}

/// A machine is one printer.
#[test]
fn two_printers_do_not_answer_at_one_address() {
    let bench = Bench::new();
    let like = Printer::assumed(PrinterId(0), "Knot", [100.0, 60.0, 120.0]);
    let other = bench.write(|c| commands::printers::add(c, &PrinterChange::of(like)));
    bench.refuses(|c| links::connect(c, other, AT), "a machine is one printer");
}
