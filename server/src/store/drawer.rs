//! The drawers: stock by family and size, and every change of it.

use anvil_core::length::Length;
use anvil_core::sheet::PartKind;
use anvil_core::stock_csv::Row;
use chrono::{DateTime, Utc};
use serde::Serialize;
use utoipa::ToSchema;

use super::{Store, Tx};
use crate::problem::{Answer, PlacedFault, Problem};

/// A drawer: one family with its sizes.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Drawer {
    /// The family's key.
    pub key: String,
    /// What people call it.
    pub name: String,
    /// What kind of part it is.
    pub kind: PartKind,
    /// The ± limits of a piece's thickness in nanometres.
    pub tolerance_nm: i64,
    /// Its sizes, thinnest first.
    pub sizes: Vec<DrawerSize>,
}

/// One size of a drawer.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct DrawerSize {
    /// The thickness of one piece in nanometres.
    pub thickness_nm: i64,
    /// How many are in the drawer.
    pub on_hand: i32,
    /// How many of them are set aside for checks.
    pub reserved: i32,
    /// How many more are chosen for checks and have still to come.
    pub awaited: i64,
    /// Where the drawer is.
    pub place: String,
    /// It is no longer made.
    pub discontinued: bool,
    /// For `If-Match`.
    pub version: i32,
}

/// One change of a count.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Move {
    /// The family.
    pub family_key: String,
    /// The size in nanometres.
    pub thickness_nm: i64,
    /// How many there were.
    pub on_hand_was: i32,
    /// How many there are.
    pub on_hand: i32,
    /// `counted`, `imported`, `fitted` or `put_back`.
    pub why: String,
    /// The job it was for, where it was for one.
    pub job_no: Option<i32>,
    /// Who.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// All drawers.
pub async fn list(store: &Store) -> Answer<Vec<Drawer>> {
    let families = sqlx::query!(
        "select family_key, name, kind, tolerance_nm from family where shop_id = $1 order by name",
        store.shop_id
    )
    .fetch_all(&store.pool)
    .await?;
    let sizes = sqlx::query!(
        r#"select s.family_key, s.thickness_nm, s.on_hand, s.reserved, s.place, s.discontinued, s.version,
                  (select coalesce(sum(p.count - p.reserved), 0) from setting_piece p
                     join setting t using (shop_id, job_no, check_key, setting_no)
                   where p.shop_id = s.shop_id and p.family_key = s.family_key
                     and p.thickness_nm = s.thickness_nm and p.reserved < p.count
                     and t.state = 'chosen') as "awaited!"
           from stock s where s.shop_id = $1 order by s.family_key, s.thickness_nm"#,
        store.shop_id
    )
    .fetch_all(&store.pool)
    .await?;
    families
        .into_iter()
        .map(|f| {
            let kind = serde_json::from_value(f.kind.into()).map_err(Problem::server)?;
            let sizes = sizes.iter().filter(|s| s.family_key == f.family_key);
            Ok(Drawer {
                kind,
                name: f.name,
                tolerance_nm: f.tolerance_nm,
                sizes: sizes
                    .map(|s| DrawerSize {
                        thickness_nm: s.thickness_nm,
                        on_hand: s.on_hand,
                        reserved: s.reserved,
                        awaited: s.awaited,
                        place: s.place.clone(),
                        discontinued: s.discontinued,
                        version: s.version,
                    })
                    .collect(),
                key: f.family_key,
            })
        })
        .collect()
}

/// The newest changes of a drawer's counts.
pub async fn moves(store: &Store, family: &str) -> Answer<Vec<Move>> {
    Ok(sqlx::query_as!(
        Move,
        "select family_key, thickness_nm, on_hand_was, on_hand, why, job_no, who, at
         from stock_move where shop_id = $1 and family_key = $2 order by move_no desc limit 30",
        store.shop_id,
        family
    )
    .fetch_all(&store.pool)
    .await?)
}

/// Every size, as rows of the file.
pub async fn rows(store: &Store) -> Answer<Vec<Row>> {
    let rows = sqlx::query!(
        "select family_key, thickness_nm, on_hand, place, discontinued
         from stock where shop_id = $1 order by family_key, thickness_nm",
        store.shop_id
    )
    .fetch_all(&store.pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Row {
            family: r.family_key,
            thickness_nm: Length::from_nm(r.thickness_nm),
            on_hand: r.on_hand,
            place: r.place,
            discontinued: r.discontinued,
        })
        .collect())
}

/// Adds a line to the record of changes.
#[allow(clippy::too_many_arguments)] // a line of a ledger has that many columns
pub async fn note_move(
    store: &Store,
    tx: &mut Tx,
    family: &str,
    thickness_nm: i64,
    (was, is): (i32, i32),
    why: &str,
    job_no: Option<i32>,
    who: &str,
) -> Answer<()> {
    sqlx::query!(
        "insert into stock_move (shop_id, family_key, thickness_nm, on_hand_was, on_hand, why, job_no, who)
         values ($1, $2, $3, $4, $5, $6, $7, $8)",
        store.shop_id,
        family,
        thickness_nm,
        was,
        is,
        why,
        job_no,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// The checks that wait for pieces of a family, oldest choice first, held until the transaction
/// ends. Held before any stock and in the order of their jobs, as every other write does, so that
/// nobody blocks anybody.
pub async fn hold_waiting(store: &Store, tx: &mut Tx, family: &str) -> Answer<Vec<(i32, String)>> {
    let mut waiting = sqlx::query!(
        "select c.job_no, c.check_key, t.chosen_at from job_check c
           join job j using (shop_id, job_no)
           join setting t using (shop_id, job_no, check_key)
         where c.shop_id = $1 and t.family_key = $2 and t.state = 'chosen' and c.phase = 'await_part'
         order by c.job_no, c.check_key for update of c, j",
        store.shop_id,
        family
    )
    .fetch_all(&mut **tx)
    .await?;
    waiting.sort_by_key(|w| w.chosen_at);
    Ok(waiting
        .into_iter()
        .map(|w| (w.job_no, w.check_key))
        .collect())
}

/// Holds every size of these families until the transaction ends, in the order in which all hold
/// them.
pub async fn hold_families(store: &Store, tx: &mut Tx, families: &[String]) -> Answer<()> {
    sqlx::query!(
        "select 1 as one from stock where shop_id = $1 and family_key = any($2)
         order by family_key, thickness_nm for update",
        store.shop_id,
        families
    )
    .fetch_all(&mut **tx)
    .await?;
    Ok(())
}

/// A size as it stands, held until the transaction ends.
pub async fn hold_size(
    store: &Store,
    tx: &mut Tx,
    family: &str,
    thickness_nm: i64,
) -> Answer<Option<DrawerSize>> {
    Ok(sqlx::query_as!(
        DrawerSize,
        r#"select thickness_nm, on_hand, reserved, 0::bigint as "awaited!", place, discontinued, version
           from stock where shop_id = $1 and family_key = $2 and thickness_nm = $3 for update"#,
        store.shop_id,
        family,
        thickness_nm
    )
    .fetch_optional(&mut **tx)
    .await?)
}

/// Counts a size: sets how many there are, and where. A new size is put in.
#[allow(clippy::too_many_arguments)] // a row of the drawer has that many columns
pub async fn count(store: &Store, tx: &mut Tx, row: &Row, why: &str, who: &str) -> Answer<()> {
    let thickness_nm = row.thickness_nm.nm();
    let known = sqlx::query!(
        "select 1 as one from family where shop_id = $1 and family_key = $2",
        store.shop_id,
        row.family
    )
    .fetch_optional(&mut **tx)
    .await?;
    if known.is_none() {
        return Err(Problem::field(
            "family",
            format!(
                "There is no drawer “{}”: a spec sheet that names the family brings its drawer.",
                row.family
            ),
        ));
    }
    let before = hold_size(store, tx, &row.family, thickness_nm).await?;
    if let Some(before) = before.as_ref().filter(|b| b.reserved > row.on_hand) {
        return Err(Problem::conflict(
            "reserved",
            format!(
                "{} of the {} pieces are set aside for checks, so there cannot be only {}: let a choice go first.",
                before.reserved, row.thickness_nm, row.on_hand
            ),
        ));
    }
    sqlx::query!(
        "insert into stock (shop_id, family_key, thickness_nm, on_hand, place, discontinued)
         values ($1, $2, $3, $4, $5, $6)
         on conflict (shop_id, family_key, thickness_nm)
         do update set on_hand = $4, place = $5, discontinued = $6, version = stock.version + 1",
        store.shop_id,
        row.family,
        thickness_nm,
        row.on_hand,
        row.place,
        row.discontinued
    )
    .execute(&mut **tx)
    .await?;
    let was = before.map_or(0, |b| b.on_hand);
    if was != row.on_hand {
        note_move(
            store,
            tx,
            &row.family,
            thickness_nm,
            (was, row.on_hand),
            why,
            None,
            who,
        )
        .await?;
    }
    Ok(())
}

/// Puts pieces that came out of a box back in the drawer.
pub async fn put_back(
    store: &Store,
    tx: &mut Tx,
    family: &str,
    thickness_nm: i64,
    count: i32,
    job_no: i32,
    who: &str,
) -> Answer<()> {
    let is = sqlx::query_scalar!(
        "update stock set on_hand = on_hand + $4
         where shop_id = $1 and family_key = $2 and thickness_nm = $3 returning on_hand",
        store.shop_id,
        family,
        thickness_nm,
        count
    )
    .fetch_one(&mut **tx)
    .await?;
    note_move(
        store,
        tx,
        family,
        thickness_nm,
        (is - count, is),
        "put_back",
        Some(job_no),
        who,
    )
    .await
}

/// Sets aside what has come for a waiting check. `true` where anything did.
pub async fn set_aside(store: &Store, tx: &mut Tx, job_no: i32, key: &str) -> Answer<bool> {
    let waits = sqlx::query!(
        "select p.setting_no, p.family_key, p.thickness_nm, p.count - p.reserved as \"missing!\"
         from setting_piece p join setting t using (shop_id, job_no, check_key, setting_no)
         where p.shop_id = $1 and p.job_no = $2 and p.check_key = $3
           and t.state = 'chosen' and p.reserved < p.count
         order by p.thickness_nm",
        store.shop_id,
        job_no,
        key
    )
    .fetch_all(&mut **tx)
    .await?;
    let mut any = false;
    for wait in waits {
        let taken = sqlx::query!(
            "update stock set reserved = reserved + $4
             where shop_id = $1 and family_key = $2 and thickness_nm = $3 and on_hand - reserved >= $4",
            store.shop_id,
            wait.family_key,
            wait.thickness_nm,
            wait.missing
        )
        .execute(&mut **tx)
        .await?;
        if taken.rows_affected() == 1 {
            any = true;
            sqlx::query!(
                "update setting_piece set reserved = count
                 where shop_id = $1 and job_no = $2 and check_key = $3 and setting_no = $4 and thickness_nm = $5",
                store.shop_id,
                job_no,
                key,
                wait.setting_no,
                wait.thickness_nm
            )
            .execute(&mut **tx)
            .await?;
        }
    }
    Ok(any)
}

/// Faults of the CSV as faults of a file.
pub fn csv_faults(faults: Vec<anvil_core::stock_csv::Fault>) -> Problem {
    let placed = faults
        .into_iter()
        .map(|f| PlacedFault {
            place: if f.column.is_empty() {
                format!("line {}", f.line)
            } else {
                format!("line {}, {}", f.line, f.column)
            },
            message: f.message,
        })
        .collect();
    Problem::file("The file has faults, so nothing was taken from it.", placed)
}

/// The version of a size; 0 where there is none yet.
pub async fn version(store: &Store, family: &str, thickness_nm: i64) -> Answer<i32> {
    let found = sqlx::query_scalar!(
        "select version from stock where shop_id = $1 and family_key = $2 and thickness_nm = $3",
        store.shop_id,
        family,
        thickness_nm
    )
    .fetch_optional(&store.pool)
    .await?;
    Ok(found.unwrap_or(0))
}
