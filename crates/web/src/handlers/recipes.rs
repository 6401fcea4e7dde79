//! Recipes: orientation, supports, scale, zones, the mesh that comes back.

use axum::body::Bytes;
use axum::extract::{Multipart, Path, State};
use axum::http::{HeaderMap, header};
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::ids::{PartId, PrintMeshId, SculptId};
use wembrit_core::mesh::read_watched;
use wembrit_core::pose::Pose;
use wembrit_core::recipe::Setup;
use wembrit_core::recipe::orient::FineZone;
use wembrit_core::recipe::prepare::design_mesh;
use wembrit_core::recipe::scale::Joint;
use wembrit_core::recipe::supports::{SupportStyle, Supports};
use wembrit_core::sculpt::picture::{Side, point_seen};
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::commands::sculpts::Arrival;
use wembrit_store::queries::pages::recipes as pages;
use wembrit_store::queries::trials::sculpt_of;
use wembrit_store::queries::{muster, poses, prepared_parts, recipes, sculpts};
use wembrit_store::{Conn, StoreError, commands};

use super::sculpts::{broke_off, mesh_file, take_in};
use super::{Fields, Id, go, page, wait_s};
use crate::asked::asking;
use crate::error::WebError;
use crate::forms::{Input, Reader};
use crate::state::{App, Topic};
use crate::views::poses::{EVEN, PosesView, SearchView, Weights};
use crate::views::recipes::RecipeView;
use crate::views::scale::{ScaleView, point_text, read_outcome, read_point, ticked};
use crate::views::{Page, Tab, html};

/// The page of something around a part, in its project.
pub(crate) fn part_page(
    c: &mut Conn,
    app: &App,
    id: PartId,
    title: &str,
) -> Result<Page, StoreError> {
    let project = muster::project_of_part(c, id)?;
    page(c, app, Tab::Muster, title, Some(project))
}

async fn recipe_view(app: &App, id: PartId) -> Result<RecipeView, WebError> {
    app.view(move |c, app| {
        let page = part_page(c, app, id, "Recipe")?;
        let data = pages::page(c, id, page.project_id())?;
        Ok(RecipeView::new(page, &data, app.settings.max_file_bytes))
    })
    .await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<PartId>,
) -> Result<Html<String>, WebError> {
    let view = recipe_view(&app, id).await?;
    if view.open() {
        // The worker asks for what no part is prepared as.
        app.ring();
    }
    html(&view)
}

/// Whether a recipe is measured as it hangs, for its page while it waits.
pub(crate) async fn state(
    State(app): State<App>,
    Id(id): Id<PartId>,
) -> Result<Html<String>, WebError> {
    let wait = app.view(wait_s).await?;
    html(&recipe_view(&app, id).await?.waiting().about(wait))
}

/// Changes the newest version of a part's recipe.
async fn change(
    app: &App,
    id: PartId,
    with: impl FnOnce(&mut RecipeChange, &Setup) -> Result<(), StoreError> + Send + 'static,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| {
        let part = muster::part(c, id)?;
        let version = recipes::newest(c, part.recipe)?;
        let mut to = RecipeChange::of(&version);
        with(&mut to, &version.setup)?;
        commands::recipes::change(c, part.recipe, &to, now)?;
        let fresh = recipes::newest(c, part.recipe)?;
        if let Some(sculpt) = part.sculpt {
            let sculpt = sculpts::load(c, sculpt)?;
            commands::layer_facts::ask(c, &sculpt, &fresh, now)?;
        }
        Ok(())
    })
    .await?;
    app.ring();
    Ok(go(format!("/parts/{id}/recipe")))
}

/// Sets a part up as a pose of the sheet says.
pub(crate) async fn set_pose(
    State(app): State<App>,
    Id(id): Id<PartId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let pose: Pose = input
        .get("pose")
        .parse()
        .map_err(|e: wembrit_core::pose::PoseError| WebError::BadRequest(e.to_string()))?;
    let on_plate = input.has("on_plate");
    change(&app, id, move |to, now| {
        to.setup = Some(now.posed(pose, on_plate));
        Ok(())
    })
    .await
}

/// The supports a form asks for.
pub(crate) fn read_style(input: &Input) -> Result<SupportStyle, WebError> {
    let mut r = Reader::new(input);
    let tip = r.number("tip_mm", 0.1, 3.0);
    let spacing = r.number("spacing_mm", 0.8, 30.0);
    let lift = r.number("lift_mm", 0.0, 50.0);
    let style = SupportStyle::checked(tip, spacing, lift);
    r.done(style).ok().flatten().ok_or_else(|| {
        WebError::BadRequest(
            "supports have tips of 0.1 to 3 mm, 0.8 to 30 mm apart, and lift by at most 50 mm"
                .into(),
        )
    })
}

pub(crate) async fn set_supports(
    State(app): State<App>,
    Id(id): Id<PartId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let supports = match input.get("source") {
        "none" => Some(Supports::None),
        "in the file" => Some(Supports::InFile),
        "planned" => Some(Supports::Planned(read_style(&input)?)),
        "print mesh" => None,
        _ => {
            return Err(WebError::BadRequest(
                "choose where the supports come from".into(),
            ));
        }
    };
    change(&app, id, move |to, now| {
        to.setup = supports.map(|supports| Setup { supports, ..*now });
        Ok(())
    })
    .await
}

pub(crate) async fn set_sanded(
    State(app): State<App>,
    Id(id): Id<PartId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let sanded = Input::parse(&body).has("sanded");
    app.write(move |c| {
        let recipe = muster::part(c, id)?.recipe;
        commands::recipes::set_sanded(c, recipe, sanded)
    })
    .await?;
    Ok(go(format!("/parts/{id}/recipe")))
}

/// The picture of a part as it hangs.
pub(crate) async fn picture(
    State(app): State<App>,
    Path((_, id)): Path<(i64, i64)>,
) -> Result<Response, WebError> {
    let png = app.read(move |c| prepared_parts::picture(c, id)).await?;
    Ok(png_answer(png))
}

pub(crate) async fn pose_picture(
    State(app): State<App>,
    Id(id): Id<i64>,
) -> Result<Response, WebError> {
    let png = app.read(move |c| poses::picture(c, id)).await?;
    Ok(png_answer(png))
}

fn png_answer(png: Vec<u8>) -> Response {
    let headers = [
        (header::CONTENT_TYPE, "image/png"),
        (header::CACHE_CONTROL, "private, max-age=3600"),
    ];
    (headers, png).into_response()
}

/// The oriented, scaled design, to be supported elsewhere.
pub(crate) async fn design(
    State(app): State<App>,
    Path((id, format)): Path<(i64, String)>,
) -> Result<Response, WebError> {
    let (sculpt, recipe, bytes) = app
        .read(move |c| {
            let recipe = pages::part(c, PartId(id))?.recipe;
            let sculpt = sculpt_of(c, PartId(id))?;
            let bytes = sculpts::bytes(c, sculpt.id)?;
            Ok((sculpt, recipe, bytes))
        })
        .await?;
    let pose = recipe.setup.pose;
    let scale = sculpt.unit_mm * recipe.scale;
    mesh_file(&app, &sculpt.file_name, bytes, format, move |mesh| {
        design_mesh(&mesh, pose, scale)
    })
    .await
}

/// A mesh with its supports comes back.
pub(crate) async fn print_mesh(
    State(app): State<App>,
    Id(id): Id<PartId>,
    headers: HeaderMap,
    mut form: Multipart,
) -> Result<Response, WebError> {
    let (mut new, mut refused, mut why) = (0, 0, String::new());
    while let Some(field) = form.next_field().await.map_err(broke_off)? {
        let Some(name) = field.file_name().filter(|n| !n.is_empty()) else {
            continue;
        };
        let name = super::sculpts::base_name(name);
        let file = match take_in(&app, &name, field).await? {
            Ok(Arrival::New(file) | Arrival::Known(file)) => file,
            Err(words) => {
                (refused, why) = (refused + 1, words);
                continue;
            }
        };
        let now = app.now_ms();
        app.write(move |c| {
            let design = sculpt_of(c, id)?;
            let recipe = muster::part(c, id)?.recipe;
            commands::print_meshes::arrive(c, recipe, design.id, file, now).map(drop)
        })
        .await?;
        new += 1;
    }
    app.ring();
    app.tell(Topic::Sculpts);
    let scripted = headers
        .get(header::ACCEPT)
        .is_some_and(|a| a == "application/json");
    if scripted {
        let counts = serde_json::json!({ "new": new, "known": 0, "refused": refused, "why": why });
        return Ok(axum::Json(counts).into_response());
    }
    Ok(go(format!("/parts/{id}/recipe")))
}

pub(crate) async fn use_mesh(
    State(app): State<App>,
    Id(id): Id<PrintMeshId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let part: PartId = Input::parse(&body)
        .get("part")
        .parse()
        .map_err(|_| WebError::NoPage)?;
    let now = app.now_ms();
    app.write(move |c| commands::print_meshes::take_up(c, id, now))
        .await?;
    app.ring();
    Ok(go(format!("/parts/{part}/recipe")))
}

fn weights(asked: &Fields) -> Weights {
    let mut weights = EVEN;
    for (index, weight) in weights.iter_mut().enumerate() {
        let given = asked
            .get(&format!("w{index}"))
            .and_then(|w| w.parse::<f64>().ok());
        if let Some(given) = given.filter(|g| (0.0..=4.0).contains(g)) {
            *weight = given;
        }
    }
    weights
}

pub(crate) async fn sheet(
    State(app): State<App>,
    Id(id): Id<PartId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    let weights = weights(&asked);
    let view = app
        .view(move |c, app| {
            let page = part_page(c, app, id, "Orientation")?;
            let data = pages::poses(c, id, page.project_id())?;
            Ok(PosesView::new(page, &data, &weights))
        })
        .await?;
    html(&view)
}

pub(crate) async fn look(State(app): State<App>, Id(id): Id<PartId>) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| {
        let of = pages::part(c, id)?;
        let sculpt = sculpt_of(c, id)?;
        commands::poses::ask(c, &sculpt, &of.pose_question(), now)
    })
    .await?;
    app.ring();
    Ok(go(format!("/parts/{id}/poses")))
}

pub(crate) async fn stop_looking(
    State(app): State<App>,
    Id(id): Id<PartId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| {
        let of = pages::part(c, id)?;
        let sculpt = sculpt_of(c, id)?;
        commands::poses::stop(c, &sculpt, &of.pose_question(), now)
    })
    .await?;
    app.tell(Topic::Sculpts);
    Ok(go(format!("/parts/{id}/poses")))
}

pub(crate) async fn search_state(
    State(app): State<App>,
    Id(id): Id<PartId>,
) -> Result<Html<String>, WebError> {
    let view = app
        .read(move |c| Ok(SearchView::new(pages::pose_task(c, id)?.as_ref())))
        .await?;
    html(&view)
}

/// The place a click on a picture means: shares of its width and height.
fn clicked(input: &Input, size: (f64, f64)) -> Option<[f64; 2]> {
    let number = |name: &str| input.get(name).parse::<f64>().ok();
    Some([number("at.x")? / size.0, number("at.y")? / size.1])
}

/// The point of a sculpt's mesh at a click, in the coordinates of its file.
async fn point_at(
    app: &App,
    part: PartId,
    side: Side,
    longest_px: f64,
    at: Input,
) -> Result<(SculptId, f64, Option<[f64; 3]>), WebError> {
    let (sculpt, facts, bytes) = app
        .read(move |c| {
            let sculpt = sculpt_of(c, part)?;
            let facts = sculpts::load_facts(c, sculpt.id)?
                .ok_or_else(|| StoreError::Refused("it is not measured yet".into()))?;
            let bytes = sculpts::bytes(c, sculpt.id)?;
            Ok((sculpt, facts, bytes))
        })
        .await?;
    let across = if matches!(side, Side::Front | Side::Back) {
        facts.width_mm
    } else {
        facts.depth_mm
    };
    let scale = if longest_px < 200.0 {
        longest_px / across.max(facts.height_mm).max(1e-6)
    } else {
        longest_px
            / facts
                .width_mm
                .max(facts.depth_mm)
                .max(facts.height_mm)
                .max(1e-6)
    };
    let shown = (
        (across * scale).round().max(1.0),
        (facts.height_mm * scale).round().max(1.0),
    );
    let Some(share) = clicked(&at, shown) else {
        return Ok((sculpt.id, sculpt.unit_mm, None));
    };
    let (_asking, asked) = asking();
    let point = tokio::task::spawn_blocking(move || {
        read_watched(&bytes, &sculpt.file_name, &asked)
            .map(|mesh| point_seen(&mesh, side, share))
            .map_err(|e| WebError::BadRequest(e.to_string()))
    })
    .await??;
    Ok((sculpt.id, sculpt.unit_mm, point))
}

/// Marks a zone fine where a picture was clicked.
pub(crate) async fn mark_zone(
    State(app): State<App>,
    Path((id, side)): Path<(i64, String)>,
    body: Bytes,
) -> Result<Response, WebError> {
    let side: Side = side.parse().map_err(|_| WebError::NoPage)?;
    let input = Input::parse(&body);
    let mut r = Reader::new(&input);
    let radius = r.number("radius_mm", 0.2, 200.0);
    let radius = r
        .done(radius)
        .map_err(|_| WebError::BadRequest("a zone reaches from 0.2 to 200 mm".into()))?;
    let (sculpt, unit_mm, point) = point_at(&app, PartId(id), side, 190.0, input).await?;
    let at_mm = point.ok_or_else(|| {
        WebError::BadRequest("there is nothing of the part at that place: click on it".into())
    })?;
    let zone = FineZone {
        at_mm,
        radius_mm: radius / unit_mm,
    };
    app.write(move |c| commands::zones::mark(c, sculpt, &zone, side))
        .await?;
    Ok(go(format!("/parts/{id}/poses")))
}

pub(crate) async fn unmark_zone(
    State(app): State<App>,
    Path((id, zone)): Path<(i64, i64)>,
) -> Result<Response, WebError> {
    app.write(move |c| {
        let sculpt = sculpt_of(c, PartId(id))?.id;
        commands::zones::unmark(c, sculpt, zone)
    })
    .await?;
    Ok(go(format!("/parts/{id}/poses")))
}

pub(crate) async fn scale(
    State(app): State<App>,
    Id(id): Id<PartId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let page = part_page(c, app, id, "Scale")?;
            let data = pages::scale(c, id, &ticked(&asked))?;
            Ok(ScaleView::new(page, &data, &asked))
        })
        .await?;
    html(&view)
}

/// The first or the second of two points, picked on a picture.
pub(crate) async fn pick_point(
    State(app): State<App>,
    Path((id, side)): Path<(i64, String)>,
    asked: Fields,
) -> Result<Response, WebError> {
    let side: Side = side.parse().map_err(|_| WebError::NoPage)?;
    let pairs: Vec<(&str, &str)> = asked
        .iter()
        .map(|(k, v)| (k.as_str(), v.as_str()))
        .collect();
    let input = Input::of(&pairs);
    let (_, _, point) = point_at(&app, PartId(id), side, 230.0, input).await?;
    let at = point.ok_or_else(|| {
        WebError::BadRequest("there is nothing of the part at that place: click on it".into())
    })?;
    let text = point_text(at);
    Ok(go(
        match asked.get("a").filter(|a| read_point(a).is_some()) {
            Some(a) => format!("/parts/{id}/scale?a={a}&b={text}"),
            None => format!("/parts/{id}/scale?a={text}"),
        },
    ))
}

fn read_factor(input: &Input) -> Result<f64, WebError> {
    input
        .get("factor")
        .parse::<f64>()
        .ok()
        .filter(|f| (0.01..=20.0).contains(f))
        .ok_or_else(|| WebError::BadRequest("a scale is between 1 % and 2000 %".into()))
}

pub(crate) async fn set_scale(
    State(app): State<App>,
    Id(id): Id<PartId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let factor = read_factor(&input)?;
    let (all, to_fit, now) = (input.has("all"), input.has("fit"), app.now_ms());
    app.write(move |c| {
        let parts = if all {
            muster::siblings_of(c, id)?
        } else {
            vec![id]
        };
        commands::recipes::rescale(c, &parts, factor, to_fit, now)
    })
    .await?;
    app.ring();
    let then = input.get("then").parse::<PartId>().unwrap_or(id);
    Ok(go(format!("/parts/{then}/scale")))
}

/// All parts of the model to the factor of this one.
pub(crate) async fn unify(
    State(app): State<App>,
    Id(id): Id<PartId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| {
        let recipe = muster::part(c, id)?.recipe;
        let factor = recipes::newest(c, recipe)?.scale;
        let parts = muster::siblings_of(c, id)?;
        commands::recipes::rescale(c, &parts, factor, false, now)
    })
    .await?;
    app.ring();
    Ok(go(format!("/parts/{id}/scale")))
}

pub(crate) async fn lock(
    State(app): State<App>,
    Id(id): Id<PartId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let reason: String = input.get("reason").chars().take(200).collect();
    let reason = if input.has("free") {
        String::new()
    } else {
        reason
    };
    if reason.is_empty() && !input.has("free") {
        return Err(WebError::BadRequest(
            "say why it is locked: somebody will ask".into(),
        ));
    }
    app.write(move |c| {
        let recipe = muster::part(c, id)?.recipe;
        commands::recipes::lock_scale(c, recipe, &reason)
    })
    .await?;
    Ok(go(format!("/parts/{id}/scale")))
}

pub(crate) async fn add_joint(
    State(app): State<App>,
    Id(id): Id<PartId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let mut r = Reader::new(&input);
    let joint = Joint {
        name: r.name("name"),
        gap_mm: r.number("gap_mm", 0.001, 50.0),
    };
    let joint = r.done(joint).map_err(|faults| {
        WebError::BadRequest(faults.into_values().collect::<Vec<_>>().join("; "))
    })?;
    app.write(move |c| {
        let sculpt = sculpt_of(c, id)?.id;
        commands::scales::add_joint(c, sculpt, &joint)
    })
    .await?;
    Ok(go(format!("/parts/{id}/scale")))
}

pub(crate) async fn remove_joint(
    State(app): State<App>,
    Path((id, joint)): Path<(i64, i64)>,
) -> Result<Response, WebError> {
    app.write(move |c| {
        let sculpt = sculpt_of(c, PartId(id))?.id;
        commands::scales::remove_joint(c, sculpt, joint)
    })
    .await?;
    Ok(go(format!("/parts/{id}/scale")))
}

/// What came of the present scale on a printer.
pub(crate) async fn tried(
    State(app): State<App>,
    Id(id): Id<PartId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let bad = || WebError::BadRequest("say on which printer, and whether it worked".into());
    let printer = input.get("printer").parse().map_err(|_| bad())?;
    let outcome = read_outcome(input.get("outcome")).ok_or_else(bad)?;
    let now = app.now_ms();
    app.write(move |c| {
        let recipe = muster::part(c, id)?.recipe;
        let version = recipes::newest(c, recipe)?;
        let sculpt = sculpt_of(c, id)?.id;
        commands::scales::note(
            c,
            sculpt,
            (printer, version.resin),
            version.scale,
            outcome,
            now,
        )
    })
    .await?;
    Ok(go(format!("/parts/{id}/scale")))
}
