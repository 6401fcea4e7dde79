//! Every route, a function for each tab, and the layers around them.

use axum::Router;
use axum::extract::{DefaultBodyLimit, Request, State};
use axum::middleware::{Next, from_fn_with_state};
use axum::response::Response;
use axum::routing::{get, post};
use tower_http::catch_panic::CatchPanicLayer;
use tower_http::compression::CompressionLayer;
use tower_http::trace::TraceLayer;
use tower_sessions::cookie::SameSite;
use tower_sessions::cookie::time;
use tower_sessions::{Expiry, MemoryStore, SessionManagerLayer};

use crate::error::WebError;
use crate::handlers::{
    Id, advice, archive, attendance, bin, compare, concerns, door, events, exposure, finishing,
    hands, kits, ledger, links, matching, miniatures, muster, paces, photos, plan_files, plans,
    plate_files, plate_steps, plates, practice, progress, projects, recipes, rosters, runs,
    schedule, sculpts, search, setups, start, stores, today, trials, unit_moves, wears, weighing,
    workshop,
};
use crate::photo::MOST_BYTES;
use crate::state::App;
use crate::{assets, currency, guard, sent_forms, whole};

/// The whole application.
pub fn router(app: App) -> Router {
    // Several files in one upload, and what multipart adds.
    let most = app.settings.max_file_bytes.saturating_mul(4);
    let most = usize::try_from(most).unwrap_or(usize::MAX);
    // From the outside in: a panic becomes an error page, requests are logged, strangers are
    // refused before anything is read, answers are compressed.
    today_routes()
        .merge(muster_routes())
        .merge(plate_routes())
        .merge(link_routes())
        .merge(sculpt_routes(most))
        .merge(recipe_routes(most))
        .merge(workshop_routes(most))
        .merge(shared_routes())
        .fallback(async || WebError::NoPage)
        .layer(from_fn_with_state(app.clone(), sent_forms::carry_out_once))
        .layer(from_fn_with_state(app.clone(), whole::admit))
        .layer(from_fn_with_state(app.clone(), door::admit))
        .layer(sessions())
        .layer(CompressionLayer::new())
        .layer(from_fn_with_state(app.clone(), in_its_currency))
        .layer(from_fn_with_state(app.clone(), guard::guard))
        .with_state(app)
        .layer(TraceLayer::new_for_http())
        .layer(CatchPanicLayer::new())
}

/// Every amount of a request is written and read in the workshop's currency.
async fn in_its_currency(State(app): State<App>, request: Request, next: Next) -> Response {
    currency::within(app.currency(), next.run(request)).await
}

/// Devices that are in stay so for a month without being used, until the server is started again.
/// Not only over TLS: in a workshop's own network there often is none.
fn sessions() -> SessionManagerLayer<MemoryStore> {
    SessionManagerLayer::new(MemoryStore::default())
        .with_name("wembrit")
        .with_secure(false)
        .with_http_only(true)
        .with_same_site(SameSite::Strict)
        .with_expiry(Expiry::OnInactivity(time::Duration::days(30)))
}

/// Printers that are connected.
fn link_routes() -> Router<App> {
    Router::new()
        .route("/printers/{id}/link", get(links::show).post(links::connect))
        .route("/printers/{id}/unlink", post(links::disconnect))
        .route("/plates/{id}/live", get(links::live))
        .route("/plates/{id}/memory", get(runs::memory))
        .route("/plates/{id}/send", post(links::send))
        .route("/plates/{id}/stop", post(links::stop))
        .route("/plates/{id}/withdraw", post(links::withdraw))
        .route("/demo/speed/{times}", post(links::speed))
}

/// Today, and the three answers of the first run.
fn today_routes() -> Router<App> {
    Router::new()
        .route("/", get(today::show))
        .route("/today/slip", get(today::slip))
        .route("/start", post(start::answer))
        .route("/enter", get(door::show).post(door::enter))
        .route("/enter/{token}", get(door::token))
        .route("/leave", post(door::leave))
        .route("/phone", get(door::phone))
        .route("/passphrase", post(door::set))
        .route("/devices/{id}/sign-out", post(door::sign_out))
}

/// Projects, units, models, parts and kits; army lists and files for parts.
fn muster_routes() -> Router<App> {
    let mut router = Router::new()
        .route("/muster", get(muster::newest))
        .route(
            "/projects/new",
            get(muster::new_project).post(muster::add_project),
        )
        .route(
            "/projects/{id}",
            get(muster::edit_project).post(muster::save_project),
        )
        .route("/projects/{id}/muster", get(muster::show))
        .route("/projects", get(projects::show))
        .route("/projects/{id}/copy", post(projects::copy))
        .route("/projects/{id}/away", post(projects::put_away))
        .route("/projects/{id}/progress", get(progress::show))
        .route("/projects/{id}/chance", get(progress::chance))
        .route(
            "/models/{id}/miniatures",
            get(miniatures::show).post(miniatures::put_together),
        )
        .route("/models/{id}/miniatures/step", post(miniatures::go_to))
        .route("/models/{id}/over", post(miniatures::take_over))
        .route("/models/{id}/came", post(miniatures::come))
        .route("/miniatures/{id}/apart", post(miniatures::take_apart))
        .route("/arrivals/{id}/leave", post(miniatures::leave))
        .route(
            "/projects/{id}/units/new",
            get(muster::new_unit).post(muster::add_unit),
        )
        .route(
            "/units/{id}",
            get(muster::edit_unit).post(muster::save_unit),
        )
        .route(
            "/units/{id}/models/new",
            get(muster::new_model).post(muster::add_model),
        )
        .route("/models/{id}", get(muster::show_model))
        .route(
            "/models/{id}/edit",
            get(muster::edit_model).post(muster::save_model),
        )
        .route(
            "/models/{id}/parts/new",
            get(muster::new_part).post(muster::add_part),
        )
        .route(
            "/parts/{id}",
            get(muster::edit_part).post(muster::save_part),
        )
        .route(
            "/projects/{id}/roster",
            get(rosters::ask).post(rosters::read),
        )
        .route("/projects/{id}/concerns/aside", post(concerns::put_aside))
        .route("/projects/{id}/concerns/up", post(concerns::take_up))
        .route("/projects/{id}/roster/take", post(rosters::take))
        .route("/projects/{id}/roster/again", post(rosters::again))
        .route(
            "/projects/{id}/match",
            get(matching::show).post(matching::confirm),
        )
        .route(
            "/projects/{id}/many",
            get(unit_moves::ask_many).post(unit_moves::change_many),
        )
        .route(
            "/projects/{id}/setups",
            get(setups::show).post(setups::set_up),
        )
        .route("/projects/{id}/bin", get(bin::of_project))
        .route("/projects/{id}/setups/sheet", get(setups::sheet))
        .route("/projects/{id}/setups/look", post(setups::look))
        .route("/units/{id}/build", get(muster::build_sheet))
        .route("/units/{id}/duplicate", post(unit_moves::duplicate))
        .route("/units/{id}/up", post(unit_moves::up))
        .route("/units/{id}/down", post(unit_moves::down))
        .route("/units/{id}/split", post(unit_moves::split))
        .route("/units/{id}/merge", post(unit_moves::merge))
        .route(
            "/models/{id}/choices/new",
            get(kits::new_choice).post(kits::add_choice),
        )
        .route(
            "/models/{id}/pieces/new",
            get(kits::new_piece).post(kits::add_piece),
        )
        .route("/models/{id}/kit", post(kits::take_over))
        .route(
            "/choices/{id}",
            get(kits::edit_choice).post(kits::save_choice),
        )
        .route("/pieces/{id}", get(kits::edit_piece).post(kits::save_piece));
    for kind in ["projects", "units", "models", "parts", "choices", "pieces"] {
        let remove = move |state: State<App>, Id(id): Id<i64>| muster::remove(state, kind, id);
        let restore = move |state: State<App>, Id(id): Id<i64>| muster::restore(state, kind, id);
        router = router
            .route(&format!("/{kind}/{{id}}/remove"), post(remove))
            .route(&format!("/{kind}/{{id}}/restore"), post(restore));
    }
    router
}

/// Bytes of a plan's file at most: some 20,000 copies.
const PLAN_BYTES: usize = 8_000_000;

/// Plans and plates.
fn plate_routes() -> Router<App> {
    Router::new()
        .route("/plates", get(plans::newest))
        .route("/projects/{id}/plates", get(plans::show))
        .route("/projects/{id}/left-out", get(plans::left_out))
        .route("/projects/{id}/plan", get(plans::progress).post(plans::ask))
        .route("/plans/{id}/accept", post(plans::accept))
        .route("/plans/{id}/drop", post(plans::drop_draft))
        .route("/plans/{id}/advice", get(advice::of_plan))
        .route("/plans/{id}/ends", get(schedule::ends_of))
        .route("/plans/{id}/ends/{other}", get(schedule::ends_beside))
        .route("/plans/{id}/file/{format}", get(plan_files::of_plan))
        .route(
            "/projects/{id}/plan/file",
            post(plan_files::take).layer(DefaultBodyLimit::max(PLAN_BYTES)),
        )
        .route("/plans/{id}/stop", post(plans::stop))
        .route("/plans/{id}/beside/{other}", get(plans::beside))
        .route("/schedule", get(schedule::show))
        .route("/schedule/ruler", get(schedule::ruler_alone))
        .route("/schedule.svg", get(schedule::svg))
        .route("/schedule.pdf", get(schedule::pdf))
        .route("/schedule.ics", get(schedule::calendar))
        .route("/schedule/move", post(schedule::move_plate))
        .route("/projects/{id}/told", post(schedule::told))
        .route("/projects/{id}/deadline", post(schedule::deadline))
        .route(
            "/attendance",
            get(attendance::edit).post(attendance::change),
        )
        .route("/plates/{id}", get(plates::show))
        .route("/plates/{id}/mesh/{format}", get(plate_files::plate))
        .route("/plates/{id}/page/{format}", get(plate_files::page))
        .route("/projects/{id}/plates/{format}", get(plan_files::accepted))
        .route("/plates/{id}/change", post(plates::change))
        .route("/plates/{id}/advice", get(advice::of_plate))
        .route("/plates/{id}/sorting", get(plates::sorting))
        .route("/plates/{id}/per-copy", get(plates::per_copy))
        .route("/plates/{id}/run", get(runs::show))
        .route("/plates/{id}/start", post(runs::start))
        .route("/plates/{id}/alarm.ics", get(runs::alarm))
        .route("/printers/{id}/vat", get(runs::vat_page).post(runs::vat))
        .route("/printers/{id}/pace", get(paces::show))
        .route("/ledger", get(ledger::newest))
        .route("/ledger/odds", get(ledger::odds))
        .route("/ledger/odds.csv", get(ledger::odds_table))
        .route("/projects/{id}/ledger", get(ledger::show))
        .route("/projects/{id}/ledger/bundles", post(ledger::bundle))
        .route("/projects/{id}/ledger/{file}", get(ledger::table))
        .route("/models/{id}/cost", get(ledger::model))
        .route("/models/{id}/spares", post(ledger::write_spares))
        .route("/plates/{id}/done", post(plate_steps::done))
        .route("/plates/{id}/printed", post(plate_steps::printed))
        .route("/plates/{id}/hands", get(hands::of_plate).post(hands::time))
        .route(
            "/plates/{id}/scale",
            get(weighing::show).post(weighing::write),
        )
        .route("/plates/{id}/log", post(plate_steps::log))
        .route("/plates/{id}/judge", post(plates::judge))
        .route("/plates/{id}/broke", post(plates::fail_later))
        .route("/plates/{id}/rejudge", post(plate_steps::rejudge))
        .route("/plates/{id}/put-back", post(plate_steps::put_back))
        .route("/plates/{id}/lost", post(plate_steps::lose))
        .route("/plates/{id}/release", post(plate_steps::release))
        .route(
            "/plates/{id}/photos",
            post(photos::add).layer(DefaultBodyLimit::max(MOST_BYTES + 4096)),
        )
        .route("/photos/{id}", get(photos::show))
        .route("/plates/{id}/remedy", post(plates::remedy))
        .route("/remedies/{id}", post(plates::say_remedy))
        .route("/plates/{id}/{what}", post(runs::during))
        .route("/finishing", get(finishing::show))
        .route("/causes", get(finishing::causes))
        .route("/cautions", get(finishing::cautions))
        .route("/batches/several", post(finishing::several))
        .route("/batches/{id}/alarm.ics", get(finishing::alarm))
        .route("/batches/{id}/{what}", post(finishing::act))
}

/// Sculpts, and several for one part compared.
fn sculpt_routes(upload_limit: usize) -> Router<App> {
    Router::new()
        .route(
            "/sculpts",
            get(sculpts::show_all)
                .post(sculpts::upload)
                .layer(DefaultBodyLimit::max(upload_limit)),
        )
        .route("/sculpts/list", get(sculpts::list))
        .route("/sculpts/{id}", get(sculpts::show).post(sculpts::rename))
        .route("/sculpts/{id}/state", get(sculpts::state))
        .route("/sculpts/{id}/again", post(sculpts::try_again))
        .route("/sculpts/{id}/mesh/{format}", get(sculpts::export))
        .route("/sculpts/{id}/side/{side}", get(sculpts::picture))
        .route("/parts/{id}/compare", get(compare::show))
        .route("/parts/{id}/pick", post(compare::pick))
        .route("/sculpts/{id}/price", post(sculpts::set_price))
        .route("/sculpts/{id}/supports", post(sculpts::say_supports))
        .route("/sculpts/{id}/dismiss", post(sculpts::dismiss))
        .route("/sculpts/{id}/undismiss", post(sculpts::undismiss))
        .route("/sculpts/{id}/wall", post(sculpts::set_wall))
        .route("/sculpts/{id}/unit", post(sculpts::answer_unit))
        .route("/sculpts/{id}/remove", post(sculpts::remove))
        .route("/sculpts/{id}/restore", post(sculpts::restore))
}

/// Recipes: scale, orientation, supports, trials.
fn recipe_routes(upload_limit: usize) -> Router<App> {
    Router::new()
        .route("/parts/{id}/recipe", get(recipes::show))
        .route("/parts/{id}/recipe/state", get(recipes::state))
        .route("/parts/{id}/pose", post(recipes::set_pose))
        .route("/parts/{id}/supports", post(recipes::set_supports))
        .route("/parts/{id}/sanded", post(recipes::set_sanded))
        .route("/parts/{id}/prepared/{prepared}", get(recipes::picture))
        .route("/parts/{id}/design/{format}", get(recipes::design))
        .route(
            "/parts/{id}/print-mesh",
            post(recipes::print_mesh).layer(DefaultBodyLimit::max(upload_limit)),
        )
        .route("/print-meshes/{id}/use", post(recipes::use_mesh))
        .route("/parts/{id}/poses", get(recipes::sheet).post(recipes::look))
        .route("/parts/{id}/poses/state", get(recipes::search_state))
        .route("/parts/{id}/poses/stop", post(recipes::stop_looking))
        .route("/poses/{id}/picture", get(recipes::pose_picture))
        .route("/parts/{id}/zones/{side}", post(recipes::mark_zone))
        .route(
            "/parts/{id}/zones/{side}/remove",
            post(recipes::unmark_zone),
        )
        .route(
            "/parts/{id}/scale",
            get(recipes::scale).post(recipes::set_scale),
        )
        .route("/parts/{id}/point/{side}", get(recipes::pick_point))
        .route("/parts/{id}/unify", post(recipes::unify))
        .route("/parts/{id}/lock", post(recipes::lock))
        .route("/parts/{id}/joints", post(recipes::add_joint))
        .route(
            "/parts/{id}/joints/{joint}/remove",
            post(recipes::remove_joint),
        )
        .route("/parts/{id}/tried", post(recipes::tried))
        .route("/parts/{id}/trial", post(trials::begin))
        .route("/trials/{id}", get(trials::show))
        .route("/trials/{id}/state", get(trials::state))
        .route("/trials/{id}/variants", post(trials::add_variant))
        .route(
            "/trials/{id}/variants/{variant}/remove",
            post(trials::remove_variant),
        )
        .route("/trials/{id}/criteria", post(trials::set_criteria))
        .route("/trials/{id}/plan", post(trials::plan))
        .route("/trials/{id}/grades", post(trials::grades))
        .route("/trials/{id}/winner", post(trials::winner))
        .route("/trials/{id}/give-up", post(trials::give_up))
        .route("/trials/{id}/confirm", post(trials::confirm))
        .route("/projects/{id}/first-copies", post(trials::first_copies))
}

/// Printers, resins, process settings, practice.
fn workshop_routes(upload_limit: usize) -> Router<App> {
    Router::new()
        .route(
            "/projects/{id}/practice",
            get(practice::of_project).post(practice::save_project),
        )
        .route(
            "/workshop/practice",
            get(practice::of_workshop).post(practice::save_workshop),
        )
        .route("/workshop", get(workshop::show))
        .route("/workshop/bin", get(bin::of_workshop))
        .route("/search", get(search::show))
        .route(
            "/workshop/archive",
            get(archive::show)
                .post(archive::arrive)
                .layer(DefaultBodyLimit::max(upload_limit)),
        )
        .route("/workshop/archive/all.zip", get(archive::all))
        .route("/workshop/archive/tables/{file}", get(archive::table))
        .route("/workshop/archive/copy.sqlite", get(archive::copy))
        .route("/workshop/archive/take", post(archive::take))
        .route("/projects/{id}/archive.zip", get(archive::of_project))
        .route(
            "/workshop/figures",
            get(workshop::edit_figures).post(workshop::save_figures),
        )
        .route(
            "/printers/new",
            get(workshop::new_printer).post(workshop::add_printer),
        )
        .route(
            "/printers/{id}",
            get(workshop::edit_printer).post(workshop::save_printer),
        )
        .route("/printers/{id}/kept-clear", post(ledger::keep_clear))
        .route("/printers/{id}/remove", post(workshop::remove_printer))
        .route("/printers/{id}/restore", post(workshop::restore_printer))
        .route(
            "/resins/new",
            get(workshop::new_resin).post(workshop::add_resin),
        )
        .route(
            "/resins/{id}",
            get(workshop::edit_resin).post(workshop::save_resin),
        )
        .route("/resins/{id}/remove", post(workshop::remove_resin))
        .route("/resins/{id}/restore", post(workshop::restore_resin))
        .route(
            "/settings/{id}",
            get(workshop::edit_setting).post(workshop::save_setting),
        )
        .route("/settings/{id}/preset", post(workshop::begin_from))
        .route(
            "/settings/{id}/exposure",
            get(exposure::show).post(exposure::judge),
        )
        .route("/settings/{id}/exposure/take", post(exposure::take))
        .route("/settings/{id}/exposure/ladder", post(exposure::ladder))
        .route("/settings/{id}/exposure/changed", post(exposure::changed))
        .route("/stores", get(stores::show))
        .route("/stores/buy", post(stores::buy))
        .route("/stores/move", post(stores::make))
        .route("/stores/count", post(stores::count))
        .route("/stores/weigh", post(stores::weigh))
        .route("/stores/vats/{id}", post(stores::vat))
        .route("/stores/wear", get(wears::show).post(wears::write))
        .route("/workshop/hands", get(hands::all).post(hands::take))
        .route("/test-piece.stl", get(exposure::piece))
}

/// What every page uses: news, style, scripts, fonts.
fn shared_routes() -> Router<App> {
    Router::new()
        .route("/events", get(events::stream))
        .route("/assets/{hash}/{*path}", get(assets::serve))
}
