//! Sculpts: the bytes in compressed chunks, and what was measured.

use diesel::prelude::*;
use wembrit_core::flow::{SculptState, TaskKind};
use wembrit_core::ids::SculptId;
use wembrit_core::recipe::{PartSetup, Setup};
use wembrit_core::sculpt::measure::{Measured, warnings};
use wembrit_core::units::{LayerHeight, Money};

use super::{layer_facts, tasks};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::sculpts::{MEASURE_VERSION, compress, load, task_key};
use crate::queries::{last_id, new_uid, one_row};
use crate::schema::sculpts::dsl;
use crate::schema::{sculpt_chunks as chunks, sculpt_facts as facts};

/// Bytes of a file in one chunk, before compression.
pub const CHUNK_BYTES: usize = 1 << 20;

/// Begins an upload. Until [`complete`] is called it is swept at the next start.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn begin(conn: &mut Conn, file_name: &str, now_ms: i64) -> Result<SculptId, StoreError> {
    let name = file_name
        .rsplit_once('.')
        .map_or(file_name, |(stem, _)| stem)
        .replace('_', " ");
    diesel::insert_into(dsl::sculpts)
        .values((
            dsl::uid.eq(new_uid()),
            dsl::name.eq(name.trim()),
            dsl::file_name.eq(file_name),
            dsl::bytes.eq(0),
            dsl::state.eq(SculptState::Incoming.as_str()),
            dsl::imported_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    last_id(conn).map(SculptId)
}

/// Adds the next compressed chunk.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add_chunk(
    conn: &mut Conn,
    id: SculptId,
    seq: i64,
    compressed: &[u8],
) -> Result<(), StoreError> {
    diesel::insert_into(chunks::table)
        .values((
            chunks::sculpt_id.eq(id.0),
            chunks::seq.eq(seq),
            chunks::data.eq(compressed),
        ))
        .execute(conn)?;
    Ok(())
}

/// What became of an upload.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Arrival {
    /// New; it will be measured.
    New(SculptId),
    /// The same bytes are there already.
    Known(SculptId),
}

/// Ends an upload. The same bytes as before are kept once; if they had been removed they are
/// back.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn complete(
    conn: &mut Conn,
    id: SculptId,
    hash: &str,
    bytes: i64,
    now_ms: i64,
) -> Result<Arrival, StoreError> {
    let known: Option<i64> = dsl::sculpts
        .filter(dsl::hash.eq(hash))
        .select(dsl::id)
        .first(conn)
        .optional()?;
    if let Some(known) = known {
        forget(conn, id)?;
        diesel::update(dsl::sculpts.find(known))
            .set(dsl::removed_at_ms.eq(None::<i64>))
            .execute(conn)?;
        return Ok(Arrival::Known(SculptId(known)));
    }
    let incoming = dsl::sculpts
        .find(id.0)
        .filter(dsl::state.eq(SculptState::Incoming.as_str()));
    let changed = diesel::update(incoming)
        .set((
            dsl::hash.eq(hash),
            dsl::bytes.eq(bytes),
            dsl::state.eq(SculptState::Waiting.as_str()),
        ))
        .execute(conn)?;
    one_row(changed, "sculpt")?;
    let sculpt = load(conn, id)?;
    tasks::ask(conn, TaskKind::Measure, &task_key(&sculpt), now_ms)?;
    Ok(Arrival::New(id))
}

/// A whole file, compressed and hashed before anybody waits for the data file.
#[derive(Debug, Clone)]
pub struct PackedFile {
    chunks: Vec<Vec<u8>>,
    hash: String,
    bytes: i64,
}

impl PackedFile {
    /// Packs the bytes of a file.
    ///
    /// # Errors
    /// [`StoreError::Other`] when memory runs out.
    pub fn new(bytes: &[u8]) -> Result<Self, StoreError> {
        let chunks = bytes.chunks(CHUNK_BYTES).map(compress);
        Ok(Self {
            chunks: chunks.collect::<Result<_, _>>()?,
            hash: blake3::hash(bytes).to_hex().to_string(),
            bytes: bytes.len() as i64,
        })
    }
}

/// Takes in a whole file at once.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn take_in(
    conn: &mut Conn,
    file_name: &str,
    file: &PackedFile,
    now_ms: i64,
) -> Result<Arrival, StoreError> {
    let id = begin(conn, file_name, now_ms)?;
    put_chunks(conn, id, file)?;
    complete(conn, id, &file.hash, file.bytes, now_ms)
}

/// Keeps the bytes of a file whose row is there.
pub(crate) fn put_chunks(
    conn: &mut Conn,
    id: SculptId,
    file: &PackedFile,
) -> Result<(), StoreError> {
    for (seq, chunk) in file.chunks.iter().enumerate() {
        add_chunk(conn, id, seq as i64, chunk)?;
    }
    Ok(())
}

/// Its bytes are there: it waits to be measured. One that was refused stays so.
pub(crate) fn wait_to_be_measured(
    conn: &mut Conn,
    id: SculptId,
    file: &PackedFile,
    now_ms: i64,
) -> Result<(), StoreError> {
    diesel::update(dsl::sculpts.find(id.0))
        .set((dsl::hash.eq(&file.hash), dsl::bytes.eq(file.bytes)))
        .execute(conn)?;
    let incoming = dsl::sculpts
        .find(id.0)
        .filter(dsl::state.eq(SculptState::Incoming.as_str()));
    let waits = diesel::update(incoming)
        .set(dsl::state.eq(SculptState::Waiting.as_str()))
        .execute(conn)?;
    if waits == 1 {
        let sculpt = load(conn, id)?;
        tasks::ask(conn, TaskKind::Measure, &task_key(&sculpt), now_ms)?;
    }
    Ok(())
}

/// Ends an upload that is no mesh file with a sentence that says why; its bytes are dropped.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn refuse_upload(conn: &mut Conn, id: SculptId, why: &str) -> Result<(), StoreError> {
    diesel::delete(chunks::table.filter(chunks::sculpt_id.eq(id.0))).execute(conn)?;
    set_refused(conn, id, why)
}

/// Removes uploads that a stop cut off.
pub(crate) fn sweep_incoming(conn: &mut Conn) -> Result<(), StoreError> {
    let cut_off: Vec<i64> = dsl::sculpts
        .filter(dsl::state.eq(SculptState::Incoming.as_str()))
        .select(dsl::id)
        .load(conn)?;
    cut_off
        .into_iter()
        .try_for_each(|id| forget(conn, SculptId(id)))
}

/// Drops an upload that never became a sculpt.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn forget(conn: &mut Conn, id: SculptId) -> Result<(), StoreError> {
    diesel::delete(chunks::table.filter(chunks::sculpt_id.eq(id.0))).execute(conn)?;
    let incoming = dsl::sculpts
        .find(id.0)
        .filter(dsl::state.eq(SculptState::Incoming.as_str()));
    diesel::delete(incoming).execute(conn)?;
    Ok(())
}

/// Writes down what was measured at a layer height. Doing it twice is as good as once. A unit
/// that was guessed is asked for, until it is answered.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_measured(
    conn: &mut Conn,
    id: SculptId,
    layer: LayerHeight,
    measured: &Measured,
    now_ms: i64,
) -> Result<(), StoreError> {
    let unit_mm = load(conn, id)?.unit_mm;
    let setup = PartSetup {
        sculpt: id,
        unit_mm,
        scale: 1.0,
        layer,
        setup: Setup::PLAIN,
    };
    layer_facts::set(conn, &setup, (&measured.stack, &measured.thickness), now_ms)?;
    let mesh = &measured.facts;
    let [width, depth, height] = mesh.size_mm();
    diesel::replace_into(facts::table)
        .values((
            facts::sculpt_id.eq(id.0),
            facts::measure_version.eq(MEASURE_VERSION),
            facts::triangles.eq(mesh.triangles as i64),
            facts::dropped.eq(mesh.dropped as i64),
            facts::width_mm.eq(width),
            facts::depth_mm.eq(depth),
            facts::height_mm.eq(height),
            facts::volume_mm3.eq(measured.stack.volume_mm3),
            facts::surface_mm2.eq(mesh.surface_mm2),
            facts::shells.eq(i64::from(mesh.shells)),
            facts::inverted_shells.eq(i64::from(mesh.inverted_shells)),
            facts::inner_shells.eq(i64::from(mesh.inner_shells)),
            facts::open_edge_mm.eq(mesh.open_edge_mm),
            facts::shell_sum_mm3.eq(mesh.volume_mm3),
            facts::warnings.eq(warnings_text(measured)),
            facts::outline.eq(measured.outline.to_string()),
            facts::height_profile.eq(measured.profile.to_string()),
            facts::measured_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    diesel::update(dsl::sculpts.find(id.0))
        .set((
            dsl::state.eq(SculptState::Measured.as_str()),
            dsl::refusal.eq(None::<String>),
        ))
        .execute(conn)?;
    let unanswered = dsl::sculpts.find(id.0).filter(dsl::unit_answered.eq(0));
    diesel::update(unanswered)
        .set(dsl::unit_asked.eq(measured.unit.as_ref().map(|u| u.first().name)))
        .execute(conn)?;
    Ok(())
}

fn warnings_text(measured: &Measured) -> String {
    serde_json::to_string(&warnings(measured)).expect("words always serialise")
}

/// Answers in which unit a file was drawn; it is measured anew when that changes its size.
///
/// # Errors
/// [`StoreError::Refused`] for a unit that is none.
pub fn answer_unit(
    conn: &mut Conn,
    id: SculptId,
    unit_mm: f64,
    now_ms: i64,
) -> Result<(), StoreError> {
    if !(0.0001..=10_000.0).contains(&unit_mm) {
        return Err(StoreError::Refused(
            "a unit has between 0.0001 and 10,000 mm".into(),
        ));
    }
    let sculpt = load(conn, id)?;
    let ended = matches!(sculpt.state, SculptState::Measured | SculptState::Refused);
    let anew = sculpt.unit_mm != unit_mm && ended && sculpt.hash.is_some();
    diesel::update(dsl::sculpts.find(id.0))
        .set((
            dsl::unit_mm.eq(unit_mm),
            dsl::unit_asked.eq(None::<String>),
            dsl::unit_answered.eq(1),
            dsl::row_version.eq(sculpt.row_version + 1),
        ))
        .execute(conn)?;
    if anew {
        measure_anew(conn, id, now_ms)?;
    }
    Ok(())
}

fn measure_anew(conn: &mut Conn, id: SculptId, now_ms: i64) -> Result<(), StoreError> {
    diesel::update(dsl::sculpts.find(id.0))
        .set(dsl::state.eq(SculptState::Waiting.as_str()))
        .execute(conn)?;
    let sculpt = load(conn, id)?;
    tasks::ask(conn, TaskKind::Measure, &task_key(&sculpt), now_ms)
}

/// Asks for every sculpt to be measured again that was measured by an earlier version.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ask_outdated(conn: &mut Conn, now_ms: i64) -> Result<(), StoreError> {
    let old: Vec<i64> = dsl::sculpts
        .inner_join(facts::table)
        .filter(
            facts::measure_version
                .ne(MEASURE_VERSION)
                .and(dsl::state.eq(SculptState::Measured.as_str()))
                .and(dsl::hash.is_not_null()),
        )
        .select(dsl::id)
        .load(conn)?;
    for id in old {
        // Plans go on with what is known until the new figures are there.
        let sculpt = load(conn, SculptId(id))?;
        tasks::ask(conn, TaskKind::Measure, &task_key(&sculpt), now_ms)?;
    }
    Ok(())
}

/// Writes down why a complete file could not be measured. The bytes stay.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_refused(conn: &mut Conn, id: SculptId, why: &str) -> Result<(), StoreError> {
    diesel::update(dsl::sculpts.find(id.0))
        .set((
            dsl::state.eq(SculptState::Refused.as_str()),
            dsl::refusal.eq(why),
        ))
        .execute(conn)?;
    Ok(())
}

/// Gives a sculpt another name.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `row_version`.
pub fn rename(
    conn: &mut Conn,
    id: SculptId,
    row_version: i64,
    name: &str,
) -> Result<(), StoreError> {
    let changed = diesel::update(
        dsl::sculpts
            .find(id.0)
            .filter(dsl::row_version.eq(row_version)),
    )
    .set((dsl::name.eq(name), dsl::row_version.eq(row_version + 1)))
    .execute(conn)?;
    one_row(changed, "sculpt")
}

/// Writes down what a file cost.
///
/// # Errors
/// [`StoreError::Conflict`] when the sculpt is not there.
pub fn set_price(conn: &mut Conn, id: SculptId, price: Money) -> Result<(), StoreError> {
    one_row(
        diesel::update(dsl::sculpts.find(id.0))
            .set(dsl::price_minor.eq(price.0))
            .execute(conn)?,
        "sculpt",
    )
}

/// Takes a sculpt off the list, and ends what is under way for it. One that a part still names
/// stays.
///
/// # Errors
/// [`StoreError::Refused`] naming a part that uses it.
pub fn remove(conn: &mut Conn, id: SculptId, now_ms: i64) -> Result<(), StoreError> {
    use crate::schema::parts;
    let user: Option<String> = parts::table
        .filter(
            parts::sculpt_id
                .eq(id.0)
                .and(parts::removed_at_ms.is_null()),
        )
        .select(parts::name)
        .first(conn)
        .optional()?;
    if let Some(part) = user {
        return Err(StoreError::Refused(format!(
            "the part '{part}' is printed from it: give that part another sculpt first"
        )));
    }
    set_removed(conn, id, Some(now_ms))?;
    let sculpt = load(conn, id)?;
    tasks::end_about(conn, &sculpt.uid, now_ms)
}

/// Puts a sculpt back on the list; one that was never measured is measured then.
///
/// # Errors
/// [`StoreError::Conflict`] when it is not there.
pub fn restore(conn: &mut Conn, id: SculptId, now_ms: i64) -> Result<(), StoreError> {
    set_removed(conn, id, None)?;
    let sculpt = load(conn, id)?;
    if sculpt.state == SculptState::Waiting {
        tasks::ask(conn, TaskKind::Measure, &task_key(&sculpt), now_ms)?;
    }
    Ok(())
}

fn set_removed(
    conn: &mut Conn,
    id: SculptId,
    removed_at_ms: Option<i64>,
) -> Result<(), StoreError> {
    let changed = diesel::update(dsl::sculpts.find(id.0))
        .set(dsl::removed_at_ms.eq(removed_at_ms))
        .execute(conn)?;
    one_row(changed, "sculpt")
}
