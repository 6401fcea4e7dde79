//! The army list, files for parts, kits, practice: what the pages take and refuse.

use rstest::rstest;
use wembrit_core::ids::{ModelId, ProjectId, UnitId};
use wembrit_core::workshop::practice::{AnsweredBy, Question};
use wembrit_store::queries::{army, kits, practices, sculpts};

use crate::app::{Answer, TestApp};

fn units(app: &TestApp) -> Vec<(String, Vec<(String, u32)>)> {
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let models = |u: &wembrit_core::army::ArmyUnit| {
        u.models
            .iter()
            .map(|m| (m.model.name.clone(), m.model.quantity))
            .collect()
    };
    army.units
        .iter()
        .map(|u| (u.unit.name.clone(), models(u)))
        .collect()
}

async fn pasted(app: &TestApp, text: &str, file: &str) -> Answer {
    app.multipart(
        "/projects/1/roster",
        &[
            ("text", None, text.as_bytes()),
            ("file", Some("list.csv"), file.as_bytes()),
        ],
    )
    .await
}

#[rstest]
#[case::pasted("# Boats\n2 punts, 60x35\nthree oars", "")]
#[case::uploaded("", "unit,name,count,base\nBoats,punts,2,60x35\nBoats,oars,3,\n")]
#[case::json(
    "[{\"unit\":\"Boats\",\"name\":\"punts\",\"count\":2,\"base\":\"60x35\"},{\"unit\":\"Boats\",\"name\":\"oars\",\"count\":3}]",
    ""
)]
#[tokio::test]
async fn a_list_is_shown_before_it_is_written(#[case] text: &str, #[case] file: &str) {
    let app = TestApp::demo();
    let before = units(&app);
    let page = pasted(&app, text, file).await;
    page.is(200)
        .says("value=\"punts\"")
        .says("value=\"oars\"")
        .says("value=\"2\"")
        .says("value=\"3\"");
    assert_eq!(units(&app), before, "nothing is written yet");
    let form = "rows=2&take_0=1&unit_0=Boats&name_0=punts&quantity_0=2&base_0=60x35&options_0=\
                &unit_1=Boats&name_1=oars&quantity_1=3&base_1=&options_1=";
    app.post("/projects/1/roster/take", form).await.is(303);
    let after = units(&app);
    assert_eq!(
        after.last(),
        Some(&("Boats".into(), vec![("punts".into(), 2)])),
        "what was not ticked is skipped"
    );
    assert_eq!(after.len(), before.len() + 1);
}

/// Sent back with a note, and nothing is written.
#[rstest]
#[case::no_count("quantity_0=&base_0=25", "say how many")]
#[case::no_number("quantity_0=lots&base_0=25", "say how many")]
#[case::too_many("quantity_0=5001&base_0=25", "from 1 to 5000 models")]
#[case::base("quantity_0=3&base_0=round", "the base is unclear")]
#[case::options(
    "quantity_0=3&base_0=25&options_0=2+spear%2C+2+axe",
    "only 3 are wanted"
)]
#[case::options_open("quantity_0=3&base_0=25&options_0=spear%2C+axe", "say how many take")]
#[tokio::test]
async fn a_line_that_is_not_clear_is_sent_back(#[case] fields: &str, #[case] note: &str) {
    let app = TestApp::demo();
    let before = units(&app);
    let form = format!("rows=1&take_0=1&written_0=as+it+was&unit_0=Boats&name_0=punts&{fields}");
    let page = app.post("/projects/1/roster/take", &form).await;
    page.is(422)
        .says(note)
        .says("as it was")
        .says("value=\"punts\"");
    assert_eq!(units(&app), before);
}

#[rstest]
#[case::nothing("", "there is nothing in the list")]
#[case::broken("[{\"name\": ]", "cannot be read")]
#[tokio::test]
async fn a_list_that_cannot_be_read_stays_in_its_field(#[case] text: &str, #[case] why: &str) {
    let page = pasted(&TestApp::demo(), text, "").await;
    page.is(422).says(why);
    if !text.is_empty() {
        page.says("[{&#34;name&#34;: ]");
    }
}

#[tokio::test]
async fn files_are_proposed_and_given_to_parts() {
    let app = TestApp::demo();
    let files: [(&str, &[u8]); 2] = [
        ("bog_slinger_sling_R_x2.stl", b"solid one"),
        ("whatever.stl", b"solid two"),
    ];
    app.upload(&files).await.is(303);
    let page = app.get("/projects/1/match").await;
    page.says("bog_slinger_sling_R_x2.stl")
        .says("value=\"Sling right\"")
        .says("the name tells nothing");
    let all = app.store.read(sculpts::list).unwrap();
    let id = all
        .iter()
        .find(|(s, _)| s.file_name.starts_with("bog"))
        .unwrap()
        .0
        .id;
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let slinger = army
        .units
        .iter()
        .flat_map(|u| &u.models)
        .find(|m| m.model.name == "Bog slinger")
        .unwrap()
        .model
        .id;
    let form = |name: &str, count| {
        format!("sculpt={id}&to_{id}=model-{slinger}&name_{id}={name}&count_{id}={count}")
    };
    app.post("/projects/1/match", &form("", 2))
        .await
        .is(400)
        .says("needs a name");
    app.post("/projects/1/match", &form("Sling+right", 2))
        .await
        .is(303);
    let parts = app.store.read(|c| kits::parts_of(c, slinger)).unwrap();
    let part = parts.iter().find(|p| p.name == "Sling right").unwrap();
    assert_eq!((part.count, part.sculpt), (2, Some(id)));
    assert!(
        !app.get("/projects/1/match")
            .await
            .body
            .contains("bog_slinger_sling")
    );
}

#[rstest]
#[case::adds_up("name=shield&options=10+round%2C+8+long", 303, "")]
#[case::too_few(
    "name=shield&options=10+round%2C+7+long",
    422,
    "17 of 18 models have one"
)]
#[case::too_few_but_optional("name=shield&options=10+round%2C+7+long&may_go_without=yes", 303, "")]
#[case::twice("name=shield&options=9+round%2C+9+Round", 422, "stands there twice")]
#[case::uncounted("name=shield&options=round%2C+long", 422, "say how many models take")]
#[tokio::test]
async fn a_choice_adds_up_to_the_models(
    #[case] form: &str,
    #[case] status: u16,
    #[case] says: &str,
) {
    let app = TestApp::demo();
    app.post("/models/1/choices/new", form)
        .await
        .is(status)
        .says(says);
    let there = app
        .store
        .read(|c| kits::choices_of(c, &[ModelId(1)]))
        .unwrap()
        .len();
    assert_eq!(there, usize::from(status == 303));
    if status == 303 {
        app.get("/models/1").await.says("10 round");
        app.get("/models/1/parts/new")
            .await
            .says("models with round");
    }
}

#[tokio::test]
async fn pieces_choices_and_kits_are_kept_on_the_models_page() {
    let app = TestApp::demo();
    let piece = "name=shield&source=box&count=1&at_hand=3&cost_each=0.45&minutes_each=2";
    app.post("/models/1/pieces/new", piece).await.is(303);
    app.get("/models/1").await.says("shield").says("0.45");
    app.post(
        "/models/1/pieces/new",
        "name=shield&source=moon&count=0&at_hand=x&cost_each=1&minutes_each=0",
    )
    .await
    .is(422)
    .says("choose one of these");
    let gone = app.post("/pieces/3/remove", "").await;
    assert_eq!(gone.location(), "/models/1?removed=piece-3");
    assert!(!app.get("/models/1").await.body.contains("shield"));
    app.post("/pieces/3/restore", "").await.is(303);
    app.post("/units/1/models/new", "name=Raw+piker&quantity=2&base=25")
        .await
        .is(303);
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let raw = army.units[0].models.last().unwrap().model.id;
    app.post(&format!("/models/{raw}/kit"), "kit_of=1")
        .await
        .is(303);
    app.get(&format!("/models/{raw}"))
        .await
        .says("Pike arm")
        .says("shield");
}

#[tokio::test]
async fn units_are_split_merged_and_moved_from_their_page() {
    let app = TestApp::demo();
    app.get("/units/1")
        .await
        .says("Split the unit")
        .says("Merge");
    app.post("/units/1/split", "name=&model=1&move_1=4")
        .await
        .is(400)
        .says("Give the new unit a name");
    app.post("/units/1/split", "name=Rear+rank&model=1&move_1=four")
        .await
        .is(400);
    app.post("/units/1/split", "name=Rear+rank&model=1&move_1=99")
        .await
        .is(422)
        .says("There are not 99");
    app.post("/units/1/split", "name=Rear+rank&model=1&move_1=4")
        .await
        .is(303);
    assert_eq!(
        units(&app)[1],
        ("Rear rank".into(), vec![("Reed-piker".into(), 4)])
    );
    app.post("/units/1/down", "").await.is(303);
    assert_eq!(units(&app)[0].0, "Rear rank");
    let rear = app
        .store
        .read(|c| army::load(c, ProjectId(1)))
        .unwrap()
        .units[0]
        .unit
        .id;
    app.post(
        &format!("/units/{rear}/merge"),
        &format!("into={}", UnitId(1)),
    )
    .await
    .is(303);
    assert_eq!(
        units(&app)[0],
        (
            "Reed-pikers".into(),
            vec![("Reed-piker".into(), 14), ("Reed-piker".into(), 4)]
        )
    );
}

#[tokio::test]
async fn many_models_are_changed_by_one_form() {
    let app = TestApp::demo();
    app.post(
        "/projects/1/many",
        "model=1&model=2&base=&resin=&layer_mm=&scale_percent=",
    )
    .await
    .is(422)
    .says("nothing is to be changed");
    app.post("/projects/1/many", "model=1&base=huge")
        .await
        .is(422)
        .says("write a diameter")
        .says("value=\"1\" checked");
    app.post(
        "/projects/1/many",
        "model=1&model=2&base=32&resin=3&layer_mm=0.03&scale_percent=",
    )
    .await
    .is(303);
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    for model in army
        .units
        .iter()
        .flat_map(|u| &u.models)
        .filter(|m| m.model.id.0 <= 2)
    {
        assert_eq!(model.model.base_width_mm, 32.0);
        assert!(
            model
                .parts
                .iter()
                .all(|p| p.recipe.resin.0 == 3 && p.recipe.layer.um() == 30)
        );
    }
}

#[tokio::test]
async fn practice_is_answered_for_the_workshop_and_for_a_project() {
    let app = TestApp::demo();
    app.get("/workshop/practice")
        .await
        .says("1.41 times at 45°")
        .says("never in an ultrasonic cleaner")
        .says("assumed");
    app.post("/workshop/practice", "hollow=by+moonlight")
        .await
        .is(400)
        .says("is no answer");
    app.post("/projects/1/practice", "hollow=hollow+above+a+size&order=")
        .await
        .is(303);
    let answers = app
        .store
        .read(|c| practices::load(c, Some(ProjectId(1))))
        .unwrap();
    let answer = |of| answers.answers().find(|a| a.0 == of).unwrap();
    let hollow = Question::Hollow.school("hollow above a size").unwrap();
    assert_eq!(
        answer(Question::Hollow),
        (Question::Hollow, hollow, AnsweredBy::Project)
    );
    assert_eq!(answer(Question::Order).2, AnsweredBy::Assumed);
}

/// A pasted list keeps what stands under models apart, and is not lost when it is changed.
#[tokio::test]
async fn kit_lines_are_asked_and_the_list_stays() {
    let app = TestApp::demo();
    let list = "Mud skiff x1 (150 pts)\n    - 4 wheels\nTotal: 25 models\n";
    let page = pasted(&app, list, "").await;
    page.says("stands under Mud skiff").says("sum of the list");
    assert_eq!(
        page.body.matches("\" checked").count(),
        1,
        "one line is ticked"
    );
    app.post(
        "/projects/1/roster/again",
        "list=Mud+skiff+x1%0A++++-+4+wheels",
    )
    .await
    .says("Mud skiff x1\n    - 4 wheels</textarea>");
}

/// A file named after an option becomes a part of those models that take it, one in each.
#[tokio::test]
async fn a_file_of_an_option_goes_to_those_that_take_it() {
    let app = TestApp::demo();
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let (model, option) = army
        .units
        .iter()
        .flat_map(|u| &u.models)
        .find_map(|m| Some((m, m.choices.first()?.options.first()?)))
        .unwrap();
    let words = format!("{} {}", model.model.name, option.name).replace([' ', '-'], "_");
    let name = format!("{words}_tassel_x{}.stl", option.models);
    app.upload(&[(name.as_str(), b"solid three")]).await.is(303);
    let place = format!("value=\"option-{}\" selected", option.id);
    app.get("/projects/1/match")
        .await
        .says(&place)
        .says("count is that of the whole army");
    let all = app.store.read(sculpts::list).unwrap();
    let id = all.iter().find(|(s, _)| s.file_name == name).unwrap().0.id;
    let form = format!(
        "sculpt={id}&to_{id}=option-{}&name_{id}=Tassel&count_{id}=1",
        option.id
    );
    app.post("/projects/1/match", &form).await.is(303);
    let parts = app
        .store
        .read(|c| kits::parts_of(c, model.model.id))
        .unwrap();
    let part = parts.iter().find(|p| p.name == "Tassel").unwrap();
    assert_eq!((part.count, part.option), (1, Some(option.id)));
}
