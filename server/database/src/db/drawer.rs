//! The drawers: stock by family and size, and every change of it.

use std::collections::BTreeMap;

use anvil_arithmetic::refusal::Refusal;
use anvil_arithmetic::stock::csv::Row;
use anvil_arithmetic::stock::drawer::{Grade, range};
use anvil_arithmetic::units::length::Length;
use anvil_rules::shop::drawers::{
    AwaitedSize, Drawer, DrawerSize, FiguresFrom, HeldBy, Move, StockChange, StockCounts,
    say_what_to_order,
};
use chrono::{DateTime, Utc};

use super::error::{DbError, DbResult, word};
use super::{Store, Tx};

/// A line of a drawer: what tells it from every other.
#[derive(Clone, Copy, Debug)]
pub struct Line<'a> {
    /// The key of its family.
    pub family: &'a str,
    /// The thickness of one piece in nanometres.
    pub thickness_nm: i64,
    /// How that is known.
    pub grade: Grade,
}

/// All drawers.
pub async fn list(store: &Store) -> DbResult<Vec<Drawer>> {
    let families = sqlx::query!(
        r#"select f.family_key, f.name, f.kind, f.tolerance_nm, f.revision, r.sheet_key, r.sheet_revision, r.who,
                  r.at
           from family f join family_revision r using (shop_id, family_key, revision)
           where f.shop_id = $1 order by f.name"#,
        store.shop_id
    )
    .fetch_all(&store.pool)
    .await?;
    let sizes = sqlx::query!(
        "select family_key, thickness_nm, grade, nominal_nm, u_nm, on_hand, reserved, on_order, place,
                discontinued, version
         from stock where shop_id = $1 order by family_key, thickness_nm, grade",
        store.shop_id
    )
    .fetch_all(&store.pool)
    .await?;
    let held = held(store, false).await?;
    let ordered = ordered_at(store).await?;
    families
        .into_iter()
        .map(|f| {
            let kind = word(&f.kind, || format!("family “{}”", f.family_key))?;
            let of_family = sizes.iter().filter(|s| s.family_key == f.family_key);
            let sizes = of_family
                .map(|s| {
                    let key = (&s.family_key, s.thickness_nm, &s.grade);
                    let mut held_by: Vec<HeldBy> = held
                        .iter()
                        .filter(|h| (&h.0, h.1, &h.2) == key)
                        .map(|h| h.3.clone())
                        .collect();
                    say_what_to_order(&mut held_by, s.on_order);
                    Ok(DrawerSize {
                        thickness_nm: s.thickness_nm,
                        grade: word(&s.grade, || {
                            format!("a line of the drawer “{}”", s.family_key)
                        })?,
                        nominal_nm: s.nominal_nm,
                        u_nm: s.u_nm,
                        on_hand: s.on_hand,
                        reserved: s.reserved,
                        on_order: s.on_order,
                        ordered_at: ordered
                            .get(&(s.family_key.clone(), s.thickness_nm))
                            .copied(),
                        awaited: held_by.iter().map(|h| i64::from(h.awaited)).sum(),
                        held_by,
                        place: s.place.clone(),
                        discontinued: s.discontinued,
                        version: s.version,
                    })
                })
                .collect::<DbResult<Vec<DrawerSize>>>()?;
            let lengths = |wanted: &dyn Fn(&DrawerSize) -> bool| -> Vec<Length> {
                let of_kind = sizes.iter().filter(|s| wanted(s));
                of_kind.map(|s| Length::from_nm(s.thickness_nm)).collect()
            };
            Ok(Drawer {
                kind,
                name: f.name,
                tolerance_nm: f.tolerance_nm,
                figures: FiguresFrom {
                    revision: f.revision,
                    sheet_key: f.sheet_key,
                    sheet_revision: f.sheet_revision,
                    who: f.who,
                    at: f.at,
                },
                range: range(
                    &lengths(&|s| s.grade == Grade::Marked),
                    &lengths(&|s| s.on_hand > s.reserved),
                ),
                sizes,
                key: f.family_key,
            })
        })
        .collect()
}

/// When what is on order was ordered last, by family and thickness.
async fn ordered_at(store: &Store) -> DbResult<BTreeMap<(String, i64), DateTime<Utc>>> {
    let rows = sqlx::query!(
        r#"select s.family_key, s.thickness_nm, max(m.at) as "at!"
           from stock s join stock_move m using (shop_id, family_key, thickness_nm, grade)
           where s.shop_id = $1 and s.on_order > 0 and m.why = 'ordered'
             and not exists (select from stock_move u where u.shop_id = m.shop_id and u.undoes = m.act_key)
           group by s.family_key, s.thickness_nm"#,
        store.shop_id
    )
    .fetch_all(&store.pool)
    .await?;
    let by_size = rows
        .into_iter()
        .map(|r| ((r.family_key, r.thickness_nm), r.at));
    Ok(by_size.collect())
}

/// The sizes that checks wait for.
pub async fn awaited(store: &Store) -> DbResult<Vec<AwaitedSize>> {
    let sizes = sqlx::query!(
        r#"select s.family_key, f.name, s.thickness_nm, s.on_order
           from stock s join family f using (shop_id, family_key)
           where s.shop_id = $1 and s.grade = 'marked' and exists (
             select from setting_piece p join setting t using (shop_id, job_no, check_key, setting_no)
             where p.shop_id = s.shop_id and p.family_key = s.family_key and p.thickness_nm = s.thickness_nm
               and p.grade = s.grade and t.state = 'chosen' and p.reserved < p.count)
           order by f.name, s.thickness_nm"#,
        store.shop_id
    )
    .fetch_all(&store.pool)
    .await?;
    let held = held(store, true).await?;
    let ordered = ordered_at(store).await?;
    let list = sizes.into_iter().map(|s| {
        let of_size = held
            .iter()
            .filter(|h| (&h.0, h.1) == (&s.family_key, s.thickness_nm));
        let mut held_by: Vec<HeldBy> = of_size.map(|h| h.3.clone()).collect();
        say_what_to_order(&mut held_by, s.on_order);
        AwaitedSize {
            ordered_at: ordered
                .get(&(s.family_key.clone(), s.thickness_nm))
                .copied(),
            family_key: s.family_key,
            family_name: s.name,
            thickness_nm: s.thickness_nm,
            on_order: s.on_order,
            held_by,
        }
    });
    Ok(list.collect())
}

/// What is chosen for checks and not yet fitted, by family, thickness and grade; or only what is waited for.
async fn held(store: &Store, only_awaited: bool) -> DbResult<Vec<(String, i64, String, HeldBy)>> {
    let rows = sqlx::query!(
        "select p.family_key, p.thickness_nm, p.grade, p.job_no, p.check_key, p.reserved,
                p.count - p.reserved as \"awaited!\", j.sheet_key, j.revision, j.variant
         from setting t
           join setting_piece p using (shop_id, job_no, check_key, setting_no)
           join job j using (shop_id, job_no)
         where t.shop_id = $1 and t.state = 'chosen' and (not $2 or p.reserved < p.count)
         order by p.job_no, p.check_key",
        store.shop_id,
        only_awaited
    )
    .fetch_all(&store.pool)
    .await?;
    let mut held = Vec::with_capacity(rows.len());
    for row in rows {
        let sheet = super::sheet::built(
            store,
            &store.pool,
            (&row.sheet_key, row.revision, &row.variant),
        )
        .await?;
        let check = sheet.check(&row.check_key);
        let by = HeldBy {
            job_no: row.job_no,
            check_name: check.map_or_else(|| row.check_key.clone(), |c| c.name.clone()),
            check_key: row.check_key,
            reserved: row.reserved,
            awaited: row.awaited,
            to_order: 0,
        };
        held.push((row.family_key, row.thickness_nm, row.grade, by));
    }
    Ok(held)
}

/// The newest changes of a drawer's counts.
pub async fn moves(store: &Store, family: &str) -> DbResult<Vec<Move>> {
    let rows = sqlx::query!(
        r#"select m.family_key, m.thickness_nm, m.grade, m.on_hand_was, m.on_hand, m.on_order_was,
                  m.on_order, m.why, m.reason, m.act_key, m.job_no, m.check_key, m.who, m.at,
                  exists (select from stock_move u where u.shop_id = m.shop_id
                          and u.undoes = m.act_key) as "undone!"
           from stock_move m where m.shop_id = $1 and m.family_key = $2
           order by m.move_no desc limit 30"#,
        store.shop_id,
        family
    )
    .fetch_all(&store.pool)
    .await?;
    rows.into_iter()
        .map(|m| {
            Ok(Move {
                thickness_nm: m.thickness_nm,
                grade: word(&m.grade, || {
                    format!("a line of the drawer “{}”", m.family_key)
                })?,
                on_hand_was: m.on_hand_was,
                on_hand: m.on_hand,
                on_order_was: m.on_order_was,
                on_order: m.on_order,
                why: word(&m.why, || {
                    format!("a change of the drawer “{}”", m.family_key)
                })?,
                reason: m.reason,
                act_key: m.act_key,
                undone: m.undone,
                job_no: m.job_no,
                check_key: m.check_key,
                who: m.who,
                at: m.at,
                family_key: m.family_key,
            })
        })
        .collect()
}

/// Every size, as rows of the file.
pub async fn rows<'e>(store: &Store, run: impl sqlx::PgExecutor<'e>) -> DbResult<Vec<Row>> {
    let rows = sqlx::query!(
        "select family_key, thickness_nm, grade, nominal_nm, on_hand, on_order, place, discontinued
         from stock where shop_id = $1 order by family_key, thickness_nm, grade",
        store.shop_id
    )
    .fetch_all(run)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(Row {
                thickness_nm: Length::from_nm(r.thickness_nm),
                grade: word(&r.grade, || {
                    format!("a line of the drawer “{}”", r.family_key)
                })?,
                marked_nm: r.nominal_nm.map(Length::from_nm),
                on_hand: r.on_hand,
                on_order: Some(r.on_order),
                place: r.place,
                discontinued: r.discontinued,
                family: r.family_key,
            })
        })
        .collect()
}

/// The names of the families that there are drawers for, by key.
pub async fn families<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
) -> DbResult<std::collections::BTreeMap<String, String>> {
    let rows = sqlx::query!(
        "select family_key, name from family where shop_id = $1",
        store.shop_id
    )
    .fetch_all(run)
    .await?;
    Ok(rows.into_iter().map(|r| (r.family_key, r.name)).collect())
}

/// A change of a line, for the record.
pub struct Noted<'a> {
    pub line: Line<'a>,
    /// How many are in the drawer, before and after.
    pub on_hand: (i32, i32),
    /// How many are on order, before and after.
    pub on_order: (i32, i32),
    /// What was done.
    pub why: StockChange,
    /// Why, as somebody said.
    pub reason: &'a str,
    /// The job and the check it was for, where it was for one.
    pub check: Option<(i32, &'a str)>,
    pub who: &'a str,
    /// The act it is of, where that can be undone.
    pub act_key: Option<&'a str>,
    /// The act that it undoes.
    pub undoes: Option<&'a str>,
}

impl<'a> Noted<'a> {
    /// A change of how many there are, with nothing on order.
    pub const fn of(line: Line<'a>, on_hand: (i32, i32), why: StockChange, who: &'a str) -> Self {
        Self {
            line,
            on_hand,
            on_order: (0, 0),
            why,
            reason: "",
            check: None,
            who,
            act_key: None,
            undoes: None,
        }
    }
}

/// Adds a line to the record of changes.
pub async fn note_move(store: &Store, tx: &mut Tx, noted: &Noted<'_>) -> DbResult<()> {
    sqlx::query!(
        "insert into stock_move (shop_id, family_key, thickness_nm, grade, on_hand_was, on_hand,
                                 on_order_was, on_order, why, reason, job_no, check_key, who, act_key,
                                 undoes)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15)",
        store.shop_id,
        noted.line.family,
        noted.line.thickness_nm,
        <&str>::from(noted.line.grade),
        noted.on_hand.0,
        noted.on_hand.1,
        noted.on_order.0,
        noted.on_order.1,
        <&str>::from(noted.why),
        noted.reason,
        noted.check.map(|c| c.0),
        noted.check.map(|c| c.1),
        noted.who,
        noted.act_key,
        noted.undoes
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// A size as it stands, held until the transaction ends.
pub async fn hold_size(
    store: &Store,
    tx: &mut Tx,
    line: Line<'_>,
) -> DbResult<Option<StockCounts>> {
    Ok(sqlx::query_as!(
        StockCounts,
        "select on_hand, reserved, on_order, discontinued
         from stock where shop_id = $1 and family_key = $2 and thickness_nm = $3 and grade = $4
         for update",
        store.shop_id,
        line.family,
        line.thickness_nm,
        <&str>::from(line.grade)
    )
    .fetch_optional(&mut **tx)
    .await?)
}

/// Nothing is known of a family of that key.
pub fn no_family(key: &str) -> Refusal {
    Refusal::field(
        "family",
        format!("There is no drawer “{key}”: open it, or keep a spec sheet that names the family."),
    )
}

/// Counts a size: sets how many there are, and where. A new size is put in; `u_nm` is the standard
/// uncertainty of a measured one.
pub async fn count(
    store: &Store,
    tx: &mut Tx,
    row: &Row,
    u_nm: Option<f64>,
    (why, who, act_key): (StockChange, &str, Option<&str>),
) -> DbResult<()> {
    let line = Line {
        family: &row.family,
        thickness_nm: row.thickness_nm.nm(),
        grade: row.grade,
    };
    let known = sqlx::query!(
        "select 1 as one from family where shop_id = $1 and family_key = $2",
        store.shop_id,
        row.family
    )
    .fetch_optional(&mut **tx)
    .await?;
    if known.is_none() {
        return Err(no_family(&row.family).into());
    }
    let before = hold_size(store, tx, line).await?;
    if let Some(before) = &before {
        before.may_be_counted(row.on_hand, row.thickness_nm)?;
    }
    sqlx::query!(
        "insert into stock (shop_id, family_key, thickness_nm, grade, nominal_nm, u_nm, on_hand,
                            on_order, place, discontinued)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)
         on conflict (shop_id, family_key, thickness_nm, grade)
         do update set on_hand = $7, on_order = coalesce($11, stock.on_order), place = $9, discontinued = $10,
                       nominal_nm = coalesce($5, stock.nominal_nm), version = stock.version + 1",
        store.shop_id,
        row.family,
        line.thickness_nm,
        <&str>::from(row.grade),
        row.marked_nm.map(Length::nm),
        u_nm,
        row.on_hand,
        row.on_order.unwrap_or(0),
        row.place,
        row.discontinued,
        row.on_order
    )
    .execute(&mut **tx)
    .await?;
    let was = before.map_or((0, 0), |b| (b.on_hand, b.on_order));
    let on_order = row.on_order.unwrap_or(was.1);
    if was != (row.on_hand, on_order) {
        let noted = Noted {
            on_order: (was.1, on_order),
            act_key,
            ..Noted::of(line, (was.0, row.on_hand), why, who)
        };
        note_move(store, tx, &noted).await?;
    }
    Ok(())
}

/// Adds to what is in the drawer and on order, or takes off; never below what is set aside.
pub async fn change(
    store: &Store,
    tx: &mut Tx,
    noted: Noted<'_>,
    (on_hand, on_order): (i32, i32),
) -> DbResult<()> {
    let line = noted.line;
    let thickness = Length::from_nm(line.thickness_nm);
    let Some(before) = hold_size(store, tx, line).await? else {
        return Err(DbError::Missing(format!(
            "There is no such size as {thickness} in that drawer."
        )));
    };
    let after = before.changed_by((on_hand, on_order), thickness)?;
    sqlx::query!(
        "update stock set on_hand = $5, on_order = $6, version = version + 1
         where shop_id = $1 and family_key = $2 and thickness_nm = $3 and grade = $4",
        store.shop_id,
        line.family,
        line.thickness_nm,
        <&str>::from(line.grade),
        after.0,
        after.1
    )
    .execute(&mut **tx)
    .await?;
    let noted = Noted {
        on_hand: (before.on_hand, after.0),
        on_order: (before.on_order, after.1),
        ..noted
    };
    note_move(store, tx, &noted).await
}

/// Makes a line for a measured piece where there is none yet. Where there is one, the larger
/// uncertainty stands.
pub async fn open_line(
    store: &Store,
    tx: &mut Tx,
    line: Line<'_>,
    (nominal_nm, u_nm): (Option<i64>, f64),
    place: &str,
) -> DbResult<()> {
    sqlx::query!(
        "insert into stock (shop_id, family_key, thickness_nm, grade, nominal_nm, u_nm, on_hand, place)
         values ($1, $2, $3, $4, $5, $6, 0, $7)
         on conflict (shop_id, family_key, thickness_nm, grade)
         do update set u_nm = greatest(stock.u_nm, $6)",
        store.shop_id,
        line.family,
        line.thickness_nm,
        <&str>::from(line.grade),
        nominal_nm,
        u_nm,
        place
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// The moves of an act: family, thickness, grade, and by how much each changed what is in the
/// drawer and on order.
pub async fn moves_of(
    store: &Store,
    tx: &mut Tx,
    act_key: &str,
) -> DbResult<Vec<(String, i64, Grade, i32, i32)>> {
    let rows = sqlx::query!(
        "select family_key, thickness_nm, grade, on_hand - on_hand_was as \"on_hand!\",
                on_order - on_order_was as \"on_order!\"
         from stock_move where shop_id = $1 and act_key = $2
         order by family_key, thickness_nm, grade",
        store.shop_id,
        act_key
    )
    .fetch_all(&mut **tx)
    .await?;
    rows.into_iter()
        .map(|r| {
            let grade = word(&r.grade, || {
                format!("a line of the drawer “{}”", r.family_key)
            })?;
            Ok((r.family_key, r.thickness_nm, grade, r.on_hand, r.on_order))
        })
        .collect()
}

/// Whether an act has been undone.
pub async fn is_undone(store: &Store, tx: &mut Tx, act_key: &str) -> DbResult<bool> {
    Ok(sqlx::query_scalar!(
        r#"select exists (select from stock_move where shop_id = $1 and undoes = $2) as "undone!""#,
        store.shop_id,
        act_key
    )
    .fetch_one(&mut **tx)
    .await?)
}

/// Sets aside what has come for a waiting check. `true` where anything did.
pub async fn set_aside(store: &Store, tx: &mut Tx, job_no: i32, key: &str) -> DbResult<bool> {
    let waits = sqlx::query!(
        "select p.setting_no, p.family_key, p.thickness_nm, p.grade, p.count - p.reserved as \"missing!\"
         from setting_piece p join setting t using (shop_id, job_no, check_key, setting_no)
         where p.shop_id = $1 and p.job_no = $2 and p.check_key = $3
           and t.state = 'chosen' and p.reserved < p.count
         order by p.thickness_nm, p.grade",
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
             where shop_id = $1 and family_key = $2 and thickness_nm = $3 and grade = $5
               and on_hand - reserved >= $4",
            store.shop_id,
            wait.family_key,
            wait.thickness_nm,
            wait.missing,
            wait.grade
        )
        .execute(&mut **tx)
        .await?;
        if taken.rows_affected() == 1 {
            any = true;
            sqlx::query!(
                "update setting_piece set reserved = count
                 where shop_id = $1 and job_no = $2 and check_key = $3 and setting_no = $4
                   and thickness_nm = $5 and grade = $6",
                store.shop_id,
                job_no,
                key,
                wait.setting_no,
                wait.thickness_nm,
                wait.grade
            )
            .execute(&mut **tx)
            .await?;
        }
    }
    Ok(any)
}

/// The version of a size whose family is held; 0 where there is none yet.
pub async fn version(store: &Store, tx: &mut Tx, line: Line<'_>) -> DbResult<i32> {
    let found = sqlx::query_scalar!(
        "select version from stock
         where shop_id = $1 and family_key = $2 and thickness_nm = $3 and grade = $4",
        store.shop_id,
        line.family,
        line.thickness_nm,
        <&str>::from(line.grade)
    )
    .fetch_optional(&mut **tx)
    .await?;
    Ok(found.unwrap_or(0))
}
