//! Spec sheets. A revision never changes once it is in, so parsed ones may be kept at hand.

use std::sync::Arc;

use anvil_rules::sheet::{BoxKind, Sheet, Variant, may_follow};
use chrono::{DateTime, Utc};
use quick_cache::sync::Cache;
use serde::Serialize;
use utoipa::ToSchema;

use super::error::{DbError, DbResult};
use super::{Store, Tx, family};

/// A sheet in the list.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SheetRow {
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
    /// The builds that it serves, the usual one first; none where there is only one.
    pub variants: Vec<Variant>,
    /// When that revision came in.
    pub came_in: DateTime<Utc>,
}

/// Parsed sheets by key and revision: the whole, and each build that was asked for.
pub type Parsed = Cache<(String, i32, Option<String>), Arc<Sheet>>;
/// A shop has a few dozen sheets; beyond this the least used are read again.
const MOST_PARSED: usize = 256;

/// No sheet read yet.
pub fn parsed() -> Parsed {
    Cache::new(MOST_PARSED)
}

fn parse(key: &str, revision: i32, body: &str) -> DbResult<Sheet> {
    serde_json::from_str(body)
        .map_err(|e| DbError::unreadable(format!("revision {revision} of the sheet “{key}”"), e))
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
) -> DbResult<Arc<Sheet>> {
    let id = (key.to_owned(), revision, None);
    if let Some(sheet) = store.sheets.get(&id) {
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
        DbError::Missing(format!(
            "There is no revision {revision} of a sheet “{key}”."
        ))
    })?;
    let sheet = Arc::new(parse(key, revision, &row.body)?);
    store.sheets.insert(id, Arc::clone(&sheet));
    Ok(sheet)
}

/// A revision of a sheet as one build of the box, by which a job goes: its key, the revision, the build.
pub async fn built<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    (key, of, variant): (&str, i32, &str),
) -> DbResult<Arc<Sheet>> {
    let id = (key.to_owned(), of, Some(variant.to_owned()));
    if let Some(sheet) = store.sheets.get(&id) {
        return Ok(sheet);
    }
    let whole = revision(store, run, key, of).await?;
    let sheet = if whole.variants.is_empty() {
        whole
    } else {
        Arc::new(whole.as_built(variant))
    };
    store.sheets.insert(id, Arc::clone(&sheet));
    Ok(sheet)
}

/// The newest revision of each sheet.
pub async fn list(store: &Store) -> DbResult<Vec<SheetRow>> {
    let rows = sqlx::query!(
        "select distinct on (sheet_key) sheet_key, revision, name, body, came_in
         from sheet where shop_id = $1 order by sheet_key, revision desc",
        store.shop_id
    )
    .fetch_all(&store.pool)
    .await?;
    let mut list = Vec::with_capacity(rows.len());
    for row in rows {
        let sheet = parse(&row.sheet_key, row.revision, &row.body)?;
        list.push(SheetRow {
            key: row.sheet_key,
            revision: row.revision,
            name: row.name,
            kind: sheet.kind,
            checks: sheet.checks.len(),
            shafts: sheet.shafts.len(),
            variants: sheet.variants,
            came_in: row.came_in,
        });
    }
    Ok(list)
}

/// The newest revision of one sheet: its number, its text and when it came in.
pub async fn newest(store: &Store, key: &str) -> DbResult<(i32, Sheet, DateTime<Utc>)> {
    let row = sqlx::query!(
        "select revision, body, came_in from sheet where shop_id = $1 and sheet_key = $2
         order by revision desc limit 1",
        store.shop_id,
        key
    )
    .fetch_optional(&store.pool)
    .await?
    .ok_or_else(|| DbError::Missing(format!("There is no spec sheet “{key}”.")))?;
    let sheet = parse(key, row.revision, &row.body)?;
    Ok((row.revision, sheet, row.came_in))
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
pub async fn revisions(store: &Store, key: &str) -> DbResult<Vec<RevisionRow>> {
    Ok(sqlx::query_as!(
        RevisionRow,
        r#"select revision, came_in, who,
                  (select count(*) from job j where j.shop_id = s.shop_id and j.sheet_key = s.sheet_key
                     and j.revision = s.revision and j.standing = 'on_bench') as "open_jobs!"
           from sheet s where shop_id = $1 and sheet_key = $2 order by revision desc"#,
        store.shop_id,
        key
    )
    .fetch_all(&store.pool)
    .await?)
}

/// The newest revision of each sheet, parsed.
pub async fn newest_of_all(store: &Store, tx: &mut Tx) -> DbResult<Vec<(i32, Arc<Sheet>)>> {
    let rows = sqlx::query!(
        r#"select sheet_key, max(revision) as "revision!" from sheet where shop_id = $1
           group by sheet_key order by sheet_key"#,
        store.shop_id
    )
    .fetch_all(&mut **tx)
    .await?;
    let mut all = Vec::with_capacity(rows.len());
    for row in rows {
        let sheet = revision(store, &mut **tx, &row.sheet_key, row.revision).await?;
        all.push((row.revision, sheet));
    }
    Ok(all)
}

/// Takes a sheet in: a new revision where it differs from the newest, and a drawer for each family that has none.
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
) -> DbResult<i32> {
    let body =
        serde_json::to_string_pretty(sheet).map_err(|e| DbError::unreadable(&sheet.key, e))?;
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
    if !same {
        may_follow(&sheet.key, over, now)?;
    }
    if same {
        return Ok(now);
    }
    let next = now + 1;
    let kind: &str = sheet.kind.into();
    sqlx::query!(
        "insert into sheet (shop_id, sheet_key, revision, name, kind, body, who)
         values ($1, $2, $3, $4, $5, $6, $7)",
        store.shop_id,
        sheet.key,
        next,
        sheet.name,
        kind,
        body,
        who
    )
    .execute(&mut **tx)
    .await?;
    for family in &sheet.families {
        family::open(store, tx, family, (&sheet.key, next), who).await?;
    }
    Ok(next)
}
