//! Spec sheets. A revision never changes once it is in, so parsed ones may be kept at hand.

use std::collections::HashMap;
use std::sync::Arc;

use anvil_core::sheet::{BoxKind, Family, Sheet};
use chrono::{DateTime, Utc};
use serde::Serialize;
use utoipa::ToSchema;

use super::{Store, Tx};
use crate::problem::{Answer, Problem};

/// A sheet in the list.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SheetRow {
    /// Its key.
    pub key: String,
    /// Its newest revision.
    pub revision: i32,
    /// What people call the box.
    pub name: String,
    /// The kind of box.
    pub kind: BoxKind,
    /// How many checks it has.
    pub checks: usize,
    /// How many shafts it has.
    pub shafts: usize,
    /// When that revision came in.
    pub came_in: DateTime<Utc>,
}

/// Parsed sheets by key and revision.
pub type Parsed = HashMap<(String, i32), Arc<Sheet>>;
/// More than this and the cupboard is cleared; a shop has a few dozen sheets.
const MOST_PARSED: usize = 256;

fn parse(body: &str) -> Answer<Sheet> {
    serde_json::from_str(body)
        .map_err(|e| Problem::server(format!("a stored sheet cannot be read: {e}")))
}

/// A revision of a sheet, parsed; kept at hand once it has been read.
///
/// Inside a transaction it is read on that connection: one that waited for a second while holding a
/// first could wait for ever.
pub async fn revision<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    key: &str,
    revision: i32,
) -> Answer<Arc<Sheet>> {
    let id = (key.to_owned(), revision);
    let at_hand = store
        .sheets
        .lock()
        .ok()
        .and_then(|at_hand| at_hand.get(&id).cloned());
    if let Some(sheet) = at_hand {
        return Ok(sheet);
    }
    let row = sqlx::query!(
        "select body from sheet where shop_id = $1 and sheet_key = $2 and revision = $3",
        store.shop_id,
        key,
        revision
    )
    .fetch_optional(run)
    .await?
    .ok_or_else(|| {
        Problem::missing(format!(
            "There is no revision {revision} of a sheet “{key}”."
        ))
    })?;
    let sheet = Arc::new(parse(&row.body)?);
    if let Ok(mut at_hand) = store.sheets.lock() {
        if at_hand.len() >= MOST_PARSED {
            at_hand.clear();
        }
        at_hand.insert(id, Arc::clone(&sheet));
    }
    Ok(sheet)
}

/// The newest revision of each sheet.
pub async fn list(store: &Store) -> Answer<Vec<SheetRow>> {
    let rows = sqlx::query!(
        "select distinct on (sheet_key) sheet_key, revision, name, body, came_in
         from sheet where shop_id = $1 order by sheet_key, revision desc",
        store.shop_id
    )
    .fetch_all(&store.pool)
    .await?;
    let mut list = Vec::with_capacity(rows.len());
    for row in rows {
        let sheet = parse(&row.body)?;
        list.push(SheetRow {
            key: row.sheet_key,
            revision: row.revision,
            name: row.name,
            kind: sheet.kind,
            checks: sheet.checks.len(),
            shafts: sheet.shafts.len(),
            came_in: row.came_in,
        });
    }
    Ok(list)
}

/// The newest revision of one sheet: its number, its text and when it came in.
pub async fn newest(store: &Store, key: &str) -> Answer<(i32, Sheet, DateTime<Utc>)> {
    let row = sqlx::query!(
        "select revision, body, came_in from sheet where shop_id = $1 and sheet_key = $2
         order by revision desc limit 1",
        store.shop_id,
        key
    )
    .fetch_optional(&store.pool)
    .await?
    .ok_or_else(|| Problem::missing(format!("There is no spec sheet “{key}”.")))?;
    Ok((row.revision, parse(&row.body)?, row.came_in))
}

/// One revision of a sheet.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RevisionRow {
    /// Its number.
    pub revision: i32,
    /// When it came in.
    pub came_in: DateTime<Utc>,
    /// Who brought it in, where that is known.
    pub who: Option<String>,
    /// How many open jobs are on it.
    pub open_jobs: i64,
}

/// The revisions of a sheet, the newest first.
pub async fn revisions(store: &Store, key: &str) -> Answer<Vec<RevisionRow>> {
    Ok(sqlx::query_as!(
        RevisionRow,
        r#"select revision, came_in, who,
                  (select count(*) from job j where j.shop_id = s.shop_id and j.sheet_key = s.sheet_key
                     and j.revision = s.revision and j.finished_at is null) as "open_jobs!"
           from sheet s where shop_id = $1 and sheet_key = $2 order by revision desc"#,
        store.shop_id,
        key
    )
    .fetch_all(&store.pool)
    .await?)
}

/// Takes a sheet in: a new revision where it differs from the newest, and its families as drawers.
/// Returns the revision it is now.
///
/// `over` is the revision that was worked on, zero for a new sheet; where given, a sheet that has changed
/// since is not written over.
pub async fn take_in(
    store: &Store,
    tx: &mut Tx,
    sheet: &Sheet,
    over: Option<i32>,
    who: Option<&str>,
) -> Answer<i32> {
    let body = serde_json::to_string_pretty(sheet).map_err(Problem::server)?;
    // Two sheets of one key at once would both be the next revision.
    sqlx::query!(
        "select pg_advisory_xact_lock($1, hashtext($2))",
        store.shop_id,
        sheet.key
    )
    .execute(&mut **tx)
    .await?;
    let newest = sqlx::query!(
        "select revision, body from sheet where shop_id = $1 and sheet_key = $2
         order by revision desc limit 1",
        store.shop_id,
        sheet.key
    )
    .fetch_optional(&mut **tx)
    .await?;
    let now = newest.as_ref().map_or(0, |row| row.revision);
    let same = newest.as_ref().is_some_and(|row| row.body == body);
    if !same && over.is_some_and(|over| over != now) {
        return Err(Problem::conflict(
            "sheet-changed",
            if over == Some(0) {
                format!(
                    "There is a sheet “{}” already: give this one another key.",
                    sheet.key
                )
            } else {
                format!(
                    "The sheet is at revision {now} by now, and you began from {}. Nothing is lost: look at what changed, then keep yours over it, or put it away.",
                    over.unwrap_or(0)
                )
            },
        ));
    }
    for family in &sheet.families {
        open_drawer(store, tx, family).await?;
    }
    if same {
        return Ok(now);
    }
    let next = now + 1;
    let kind = serde_json::to_value(sheet.kind).map_err(Problem::server)?;
    sqlx::query!(
        "insert into sheet (shop_id, sheet_key, revision, name, kind, body, who)
         values ($1, $2, $3, $4, $5, $6, $7)",
        store.shop_id,
        sheet.key,
        next,
        sheet.name,
        kind.as_str().unwrap_or_default(),
        body,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(next)
}

/// A drawer for a family, and a place in it for every size made; what is there already stays.
async fn open_drawer(store: &Store, tx: &mut Tx, family: &Family) -> Answer<()> {
    let kind = serde_json::to_value(family.kind).map_err(Problem::server)?;
    sqlx::query!(
        "insert into family (shop_id, family_key, name, kind, tolerance_nm)
         values ($1, $2, $3, $4, $5)
         on conflict (shop_id, family_key) do nothing",
        store.shop_id,
        family.key,
        family.name,
        kind.as_str().unwrap_or_default(),
        family.tolerance.length().nm()
    )
    .execute(&mut **tx)
    .await?;
    for size in &family.sizes {
        sqlx::query!(
            "insert into stock (shop_id, family_key, thickness_nm, on_hand, discontinued)
             values ($1, $2, $3, 0, $4) on conflict do nothing",
            store.shop_id,
            family.key,
            size.thickness.length().nm(),
            size.discontinued
        )
        .execute(&mut **tx)
        .await?;
    }
    Ok(())
}
