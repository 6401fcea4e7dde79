//! Bottles and vats: what came, what was poured, lost, counted.

use crate::currency;
use axum::body::Bytes;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::ids::{PrinterId, ResinId};
use wembrit_core::stores::{Move, Place, Volume};
use wembrit_store::commands::stores::{self as commands, Bought, Said};
use wembrit_store::commands::vats;
use wembrit_store::queries::pages::stores as pages;
use wembrit_store::queries::{stores, workshop};
use wembrit_store::{Conn, StoreError};

use super::{Id, go, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::stores::StoresView;
use crate::views::{Tab, html, show};

async fn view(app: &App, fault: String) -> Result<StoresView, WebError> {
    let now = app.now_ms();
    let order = app.worked.order();
    app.view(move |c, app| {
        let page = page(c, app, Tab::Workshop, "Stores", None)?;
        Ok(StoresView::new(page, &pages::load(c)?, &order, now, fault))
    })
    .await
}

pub(crate) async fn show(State(app): State<App>) -> Result<Html<String>, WebError> {
    html(&view(&app, String::new()).await?)
}

/// Writes something into the books: the page again with what is wrong, where it is.
async fn write(
    app: App,
    work: Result<impl FnOnce(&mut Conn) -> Result<(), StoreError> + Send + 'static, String>,
) -> Result<Response, WebError> {
    let fault = match work {
        Ok(work) => match app.write(work).await {
            Err(WebError::Store(StoreError::Refused(why))) => why,
            done => {
                done?;
                return Ok(go("/stores"));
            }
        },
        Err(why) => why,
    };
    let fault = format!("Not written down: {fault}.");
    let view = view(&app, fault).await?;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
}

fn volume(input: &Input) -> Result<Volume, String> {
    let ml = input.decimal("ml");
    let ml = ml.ok_or_else(|| "say how many millilitres".to_owned())?;
    Volume::ml(ml).map_err(|e| e.to_string())
}

/// A bottle or a vat, or where resin is lost, as forms name it.
fn place(text: &str) -> Result<Place, String> {
    let found = text.rsplit_once(' ').and_then(|(word, id)| {
        let id = id.parse::<i64>().ok()?;
        Place::read(word, (id != 0).then_some(id))
    });
    found.ok_or_else(|| "that place is not there: load the page again".to_owned())
}

fn read_bought(input: &Input) -> Result<(Bought, String), String> {
    let resin = input.get("resin").parse::<ResinId>();
    let price = input.get("price");
    let price = if price.is_empty() { "0" } else { price };
    let bottles = input.get("bottles").parse::<u32>();
    let bought = Bought {
        resin: resin.map_err(|_| "choose a resin".to_owned())?,
        size_ml: input.decimal("size_ml").unwrap_or(f64::NAN),
        price: currency::read(price).map_err(|e| e.to_string())?,
        best_before_ms: None,
        bottles: bottles.map_err(|_| "say how many bottles came".to_owned())?,
    };
    Ok((bought, input.get("good").to_owned()))
}

/// Bottles came.
pub(crate) async fn buy(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let work = read_bought(&input).map(|(bought, good)| {
        move |c: &mut Conn| {
            let zone = show::zone(&workshop::load(c)?.time_zone);
            let best_before_ms = match good.as_str() {
                "" => None,
                day => {
                    let ms = show::read_field(&format!("{day}T00:00"), &zone);
                    let why =
                        || StoreError::Refused(format!("'{day}' is no day: write 2027-03-01"));
                    Some(ms.ok_or_else(why)?)
                }
            };
            let bought = Bought {
                best_before_ms,
                ..bought
            };
            commands::buy(c, &bought, now)
        }
    });
    write(app, work).await
}

/// How much resin is moved.
enum Amount {
    Ml(Volume),
    Grams(f64),
}

fn amount(input: &Input) -> Result<Amount, String> {
    if input.get("unit") != "g" {
        return volume(input).map(Amount::Ml);
    }
    let grams = input.within("ml", 0.0, 100_000.0)?;
    grams
        .map(Amount::Grams)
        .ok_or_else(|| "say how many grams".to_owned())
}

/// Resin goes from one place to another, by volume or by mass.
pub(crate) async fn make(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let read = || {
        let ends = (place(input.get("from"))?, place(input.get("to"))?);
        Ok((ends, amount(&input)?))
    };
    let said = Said {
        note: input.get("note").to_owned(),
        ..Said::default()
    };
    let work = read().map(|((from, to), amount)| {
        move |c: &mut Conn| match amount {
            Amount::Ml(volume) => commands::make(c, &Move { from, to, volume }, &said, now),
            Amount::Grams(grams) => commands::make_by_mass(c, (from, to), grams, &said, now),
        }
    });
    write(app, work).await
}

/// A bottle or a vat was counted.
pub(crate) async fn count(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let read = || Ok((place(input.get("place"))?, volume(&input)?));
    let said = Said {
        resin: input.get("resin").parse::<ResinId>().ok(),
        ..Said::default()
    };
    let work = read().and_then(|(place, holds)| {
        if !place.holds() {
            return Err("only bottles and vats are counted".to_owned());
        }
        Ok(move |c: &mut Conn| commands::count(c, place, holds, &said, now))
    });
    write(app, work).await
}

/// A bottle was put on the scale.
pub(crate) async fn weigh(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let read = || {
        let bottle = input.get("bottle").parse::<i64>();
        let bottle = bottle.map_err(|_| "choose a bottle".to_owned())?;
        let grams = input.within("grams", 0.0, 100_000.0)?;
        let empty = input.within("empty_g", 0.0, 10_000.0)?;
        let grams = grams.ok_or_else(|| "write what the bottle weighs".to_owned())?;
        Ok((bottle, grams, empty))
    };
    let work = read().map(|(id, grams, empty)| {
        move |c: &mut Conn| {
            let known = stores::bottles(c)?.into_iter().find(|b| b.id == id);
            let empty = empty.or(known.and_then(|b| b.empty_g));
            let why = "write what the bottle weighs empty: it is not known yet";
            let empty = empty.ok_or_else(|| StoreError::Refused(why.to_owned()))?;
            commands::weigh_bottle(c, id, grams, empty, now)
        }
    });
    write(app, work).await
}

/// A vat: its limits, what was cured in it, or it is strained back or written off.
pub(crate) async fn vat(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let work = move |c: &mut Conn| {
        let figure = |name| input.decimal(name).unwrap_or(f64::NAN);
        match input.get("do") {
            "strain" => vats::strain_back(c, id, now),
            "sheet" => vats::cure_sheet(c, id, figure("sheet_mm"), now),
            "off" => vats::write_off(c, id, input.get("cause"), None, now),
            _ => vats::limit(c, id, [figure("least_ml"), figure("most_ml")]),
        }
    };
    write(app, Ok(work)).await
}
