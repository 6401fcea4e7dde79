//! The machine by itself: time is given to it.

use proptest::prelude::*;
use rstest::rstest;
use wembrit_core::link::job::{Job, Stretch};
use wembrit_core::link::{JobKey, MachineState, Told, Trouble};
use wembrit_sim::fault::{AtLayer, Fault};
use wembrit_sim::{Machine, Spec};

/// A hundred layers of 10 s after 50 s; 10 ml, evenly.
pub(crate) fn file() -> Vec<u8> {
    let text = r#"{"format":1,"name":"plate-1-0a1b2c","layer_mm":0.05,"lift_mm":7.0,"startup_s":50.0,
        "stretches":[{"layers":100,"seconds":10.0}],"resin_ml":10.0,"areas_mm2":[]}"#;
    let job = Job::read(text.as_bytes()).unwrap();
    assert_eq!(
        job.stretches,
        [Stretch {
            layers: 100,
            seconds: 10.0
        }]
    );
    job.bytes()
}

pub(crate) fn spec() -> Spec {
    Spec {
        name: "Plover".into(),
        travel_mm: 12.0,
        vat_ml: 100.0,
        seed: None,
    }
}

fn unpacked(spec: Spec) -> Machine {
    Machine::new(spec, "plover-1".into())
}

fn start(machine: &mut Machine, id: &str) -> wembrit_core::link::Answer {
    let checksum = machine.keep("plate-1-0a1b2c", &file()).unwrap();
    let next = machine.says().next_job("plate-1-0a1b2c", &checksum);
    machine.tell(id, &Told::Start(next))
}

/// Tells it something about what hangs in it, or of its first job where nothing does.
fn tell(machine: &mut Machine, id: &str, told: fn(JobKey) -> Told) -> wembrit_core::link::Answer {
    let says = machine.says();
    let key = says.job_key().unwrap_or_else(|| says.next_job("", ""));
    machine.tell(id, &told(key))
}

fn printing() -> Machine {
    let mut machine = unpacked(spec());
    assert!(start(&mut machine, "a").done);
    machine
}

/// One job, however often it is told so under one identity.
#[test]
fn the_same_command_is_done_once() {
    let mut machine = printing();
    let again: Vec<_> = (0..3).map(|_| start(&mut machine, "a")).collect();
    assert!(again.iter().all(|a| a.done && a.number == 1));
    assert_eq!(machine.jobs(), 1);
    let other = start(&mut machine, "b");
    assert!(!other.done && other.why == "it is printing", "{other:?}");
    machine.advance(1050.0);
    assert_eq!(machine.stands(), MachineState::Ended);
    assert!(
        start(&mut machine, "a").done,
        "what was answered stays answered"
    );
    assert!(tell(&mut machine, "c", Told::Clear).done);
    assert_eq!(start(&mut machine, "d").number, 2);
}

#[rstest]
#[case::before_the_first(59.0, 0, MachineState::Printing)]
#[case::the_first(60.0, 1, MachineState::Printing)]
#[case::nearly(1049.0, 99, MachineState::Printing)]
#[case::done(1050.0, 100, MachineState::Ended)]
fn layers_come_by_the_clock(#[case] seconds: f64, #[case] layer: u32, #[case] state: MachineState) {
    let mut machine = printing();
    machine.advance(seconds);
    assert_eq!((machine.layer(), machine.stands()), (layer, state));
    assert!((machine.holds_ml() - (100.0 - f64::from(layer) * 0.1)).abs() < 1e-9);
}

#[test]
fn it_holds_goes_on_and_breaks_off() {
    let mut machine = printing();
    machine.advance(150.0);
    assert!(tell(&mut machine, "hold", Told::Pause).done);
    machine.advance(5000.0);
    assert_eq!((machine.layer(), machine.says().printed_s), (10, 150.0));
    assert!(!tell(&mut machine, "twice", Told::Pause).done);
    assert!(tell(&mut machine, "on", Told::Resume).done);
    machine.advance(100.0);
    assert_eq!(tell(&mut machine, "off", Told::Stop).layer, 20);
    machine.advance(1000.0);
    assert_eq!(
        (machine.layer(), machine.stands()),
        (20, MachineState::Stopped)
    );
    assert!(tell(&mut machine, "empty", Told::Clear).done);
    assert_eq!((machine.layer(), machine.stands()), (0, MachineState::Idle));
}

/// A byte more, a name nobody knows, a plate that would go up too far.
#[test]
fn it_prints_nothing_but_what_was_meant() {
    let mut machine = unpacked(spec());
    let checksum = machine.keep("plate-1-0a1b2c", &file()).unwrap();
    let mut told = |file: &str, checksum: String, id: &str| {
        let next = machine.says().next_job(file, &checksum);
        machine.tell(id, &Told::Start(next))
    };
    assert!(
        told("plate-2", checksum.clone(), "a")
            .why
            .contains("does not hold plate-2")
    );
    assert!(
        told("plate-1-0a1b2c", checksum.replace(&checksum[..1], "x"), "b")
            .why
            .contains("another file")
    );
    let mut low = unpacked(Spec {
        travel_mm: 11.9,
        ..spec()
    });
    assert_eq!(
        start(&mut low, "a").why,
        "it needs 12.0 mm of travel and has 11.9"
    );
    assert!(low.keep("plate-1", b"a picture").is_err());
}

fn at(layer: u32, fault: Fault) -> AtLayer {
    AtLayer {
        layer,
        fault,
        seconds: 5.0,
    }
}

/// What each fault comes to, long after it struck at layer 30.
#[rstest]
#[case(Fault::LostLink, MachineState::Ended, 100, None, 90.0)]
#[case(Fault::LostAnswers, MachineState::Ended, 100, None, 90.0)]
#[case(
    Fault::PowerCut,
    MachineState::Halted,
    30,
    Some(Trouble::PowerCut),
    97.0
)]
#[case(
    Fault::ResinEmpty,
    MachineState::Paused,
    30,
    Some(Trouble::ResinEmpty),
    0.0
)]
#[case(Fault::NothingOnPlate, MachineState::Ended, 100, None, 97.0)]
#[case(Fault::StuckToFilm, MachineState::Ended, 100, None, 97.0)]
#[case(Fault::WrongFile, MachineState::Ended, 100, None, 90.0)]
fn a_fault_strikes_at_its_layer(
    #[case] fault: Fault,
    #[case] state: MachineState,
    #[case] layer: u32,
    #[case] trouble: Option<Trouble>,
    #[case] holds_ml: f64,
) {
    let mut machine = printing();
    machine.strike(at(30, fault));
    for _ in 0..100 {
        machine.advance(40.0);
    }
    let says = machine.says();
    assert_eq!(
        (says.state, says.layer, says.trouble),
        (state, layer, trouble)
    );
    assert!((says.resin_ml - holds_ml).abs() < 1e-9, "{}", says.resin_ml);
}

/// While it is held its faults are still those of what hangs in it, not of the next job.
#[test]
fn a_fault_said_while_it_is_held_strikes_what_hangs_in_it() {
    let mut machine = printing();
    machine.advance(150.0);
    assert!(tell(&mut machine, "hold", Told::Pause).done);
    machine.strike(at(30, Fault::ResinEmpty));
    assert!(tell(&mut machine, "on", Told::Resume).done);
    machine.advance(2000.0);
    assert_eq!(
        (machine.stands(), machine.layer()),
        (MachineState::Paused, 30)
    );
}

/// In the cold it needs a twentieth more.
#[test]
fn the_cold_slows_it_down() {
    let mut machine = printing();
    machine.strike(at(0, Fault::ColdRoom));
    machine.advance(1050.0);
    assert_eq!(machine.stands(), MachineState::Printing);
    machine.advance(52.6);
    assert_eq!(
        (machine.stands(), machine.says().room_c),
        (MachineState::Ended, 14.0)
    );
}

/// With its vat filled up it may go on, and not before.
#[test]
fn an_empty_vat_is_filled_before_it_goes_on() {
    let mut machine = printing();
    machine.strike(at(30, Fault::ResinEmpty));
    machine.advance(2000.0);
    assert_eq!(
        tell(&mut machine, "on", Told::Resume).why,
        "its vat is empty"
    );
    machine.fill(50.0);
    assert!(tell(&mut machine, "on again", Told::Resume).done);
    machine.advance(2000.0);
    assert_eq!(
        (machine.stands(), machine.layer()),
        (MachineState::Ended, 100)
    );
}

proptest! {
    /// However time is cut up, the same hour brings the same layer, the same resin, the same end.
    #[test]
    fn time_may_be_cut_up(cuts in prop::collection::vec(0.01..60.0_f64, 1..60), fault in 0_usize..8, layer in 0_u32..120) {
        let whole: f64 = cuts.iter().sum();
        let run = |steps: &[f64]| {
            let mut machine = printing();
            // Seconds without power are seconds of the clock: they are nothing here.
            machine.strike(AtLayer { seconds: 0.0, ..at(layer, Fault::ALL[fault]) });
            steps.iter().for_each(|s| machine.advance(*s));
            machine.says()
        };
        let (one, many) = (run(&[whole]), run(&cuts));
        prop_assert_eq!(one.state, many.state);
        prop_assert!(one.layer.abs_diff(many.layer) <= 1);
        prop_assert!((one.resin_ml - many.resin_ml).abs() < 0.11);
    }

    /// A machine that loses its power anywhere knows afterwards what hangs in it, and does not go on with it.
    #[test]
    fn it_wakes_with_what_hangs_in_it(seconds in 0.0..1200.0_f64) {
        let mut machine = printing();
        machine.advance(seconds);
        let before = machine.says();
        let mut woken = machine.woken();
        woken.advance(3600.0);
        let says = woken.says();
        prop_assert_eq!(says.layer, before.layer);
        prop_assert_eq!(&says.job, &before.job);
        let halted = before.state == MachineState::Printing;
        prop_assert_eq!(says.state, if halted { MachineState::Halted } else { before.state });
    }
}

/// Everything by which an order can be meant for something else: it is refused, and nothing changes.
#[rstest]
#[case::another_machine(|k: &mut JobKey| k.machine = "plover-2".into())]
#[case::before_it_was_switched_off(|k: &mut JobKey| k.boot = "0".into())]
#[case::the_job_before(|k: &mut JobKey| k.number -= 1)]
#[case::another_name(|k: &mut JobKey| k.file = "plate-2".into())]
#[case::another_file(|k: &mut JobKey| k.checksum = "ab".into())]
fn an_order_for_another_job_does_nothing(
    #[case] change: fn(&mut JobKey),
    #[values(Told::Pause, Told::Stop, Told::Clear, Told::Start)] told: fn(JobKey) -> Told,
    #[values(0.0, 500.0, 1050.0)] seconds: f64,
) {
    let mut machine = printing();
    machine.advance(seconds);
    let before = machine.says();
    let mut key = before.job_key().unwrap();
    change(&mut key);
    assert!(!machine.tell("late", &told(key)).done);
    assert_eq!(machine.says(), before);
}

/// A start that comes late begins nothing: somebody printed meanwhile, or it was switched off.
#[rstest]
#[case::somebody_printed(|m: &mut Machine| {
    assert!(start(m, "somebody").done);
    m.advance(1050.0);
    assert!(tell(m, "taken off", Told::Clear).done);
})]
#[case::it_was_switched_off(|m: &mut Machine| *m = m.clone().woken())]
fn a_late_start_begins_nothing(#[case] meanwhile: fn(&mut Machine)) {
    let mut machine = unpacked(spec());
    let checksum = machine.keep("plate-1-0a1b2c", &file()).unwrap();
    let next = machine.says().next_job("plate-1-0a1b2c", &checksum);
    meanwhile(&mut machine);
    let jobs = machine.jobs();
    let answer = machine.tell("late", &Told::Start(next));
    assert!(
        !answer.done && answer.why.contains("since this was said"),
        "{answer:?}"
    );
    assert_eq!(
        (machine.jobs(), machine.stands()),
        (jobs, MachineState::Idle)
    );
}
