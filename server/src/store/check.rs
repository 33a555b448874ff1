//! The records of one check: readings, marks, settings, signings.

use anvil_core::gauge::{Figures, Repeatability};
use anvil_core::length::Length;
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};
use sqlx::types::Json;
use utoipa::ToSchema;

use super::{Store, Tx};
use crate::problem::{Answer, Problem};

/// What must be known of a check before its records can be read.
#[derive(Clone, Debug)]
pub struct Head {
    /// The job's title.
    pub title: String,
    /// Whose box it is.
    pub customer: String,
    /// The sheet it was opened with.
    pub sheet_key: String,
    /// The revision of that sheet.
    pub revision: i32,
    /// The version of the check.
    pub version: i32,
    /// The round of measuring it is in; 0 is before the first fitting.
    pub round: i32,
    /// What is fitted now, where that is known.
    pub fitted_nm: Option<i64>,
    /// The phase, as last worked out.
    pub phase: String,
}

/// One reading, as taken.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Reading {
    /// Its number within the check.
    pub reading_no: i32,
    /// The round it belongs to.
    pub round: i32,
    /// As typed.
    pub typed: String,
    /// The unit a bare figure was in.
    pub bench_unit: String,
    /// The travel in nanometres.
    pub travel_nm: i64,
    /// Who took it.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// What was said of a reading afterwards.
#[derive(Clone, Debug, Deserialize)]
pub struct Mark {
    /// The reading.
    pub reading_no: i32,
    /// `struck`, `restored` or `kept`.
    pub mark: String,
    /// Why.
    pub reason: String,
    /// Who said so.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// A choice of pieces.
#[derive(Clone, Debug, Deserialize)]
pub struct Setting {
    /// Its number within the check.
    pub setting_no: i32,
    /// The round whose readings it was chosen on.
    pub round: i32,
    /// The family its pieces are of.
    pub family_key: String,
    /// Their total thickness in nanometres.
    pub total_nm: i64,
    /// What was fitted before.
    pub fitted_before_nm: i64,
    /// The clearance it was chosen on.
    pub measured_nm: f64,
    /// The clearance it was expected to give.
    pub predicted_nm: f64,
    /// The standard uncertainty of that.
    pub u_nm: f64,
    /// Its degrees of freedom; none means infinite.
    pub dof: Option<f64>,
    /// The chance in window it was expected to have.
    pub chance: f64,
    /// Who chose it.
    pub chosen_by: String,
    /// When.
    pub chosen_at: DateTime<Utc>,
    /// `chosen`, `fitted` or `let_go`.
    pub state: String,
    /// Who fitted it or let it go.
    pub ended_by: Option<String>,
    /// When.
    pub ended_at: Option<DateTime<Utc>>,
    /// Its pieces.
    pub pieces: Vec<SettingPiece>,
}

/// Some pieces of a setting.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct SettingPiece {
    /// The thickness of one in nanometres.
    pub thickness_nm: i64,
    /// How many.
    pub count: i32,
    /// How many of them are set aside in the drawer; the rest have still to come.
    pub reserved: i32,
}

/// A signing-off or a reopening.
#[derive(Clone, Debug, Deserialize)]
pub struct Signing {
    /// `signed` or `reopened`.
    pub act: String,
    /// The call that was signed.
    pub call: Option<String>,
    /// The clearance that was signed.
    pub achieved_nm: Option<f64>,
    /// The chance that it is in the window.
    pub chance: Option<f64>,
    /// Why.
    pub reason: String,
    /// Who.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// What was said to be fitted.
#[derive(Clone, Debug, Deserialize)]
pub struct FittedSaid {
    /// The thickness in nanometres.
    pub fitted_nm: i64,
    /// Who said so.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// One size of the check's drawer.
#[derive(Clone, Debug, Deserialize)]
pub struct StockLine {
    /// The thickness in nanometres.
    pub thickness_nm: i64,
    /// How many are in the drawer.
    pub on_hand: i32,
    /// How many of them are set aside.
    pub reserved: i32,
    /// Where the drawer is.
    pub place: String,
    /// It is no longer made.
    pub discontinued: bool,
}

#[derive(Clone, Debug, Deserialize)]
struct GaugeLine {
    gauge_key: String,
    name: String,
    resolution_nm: i64,
    permissible_error_nm: i64,
    repeatability_nm: Option<f64>,
    repeatability_dof: Option<f64>,
}

/// Everything recorded of a check, with the drawer it draws from.
#[derive(Clone, Debug)]
pub struct Record {
    /// The job.
    pub job_no: i32,
    /// The check.
    pub check_key: String,
    /// Its head.
    pub head: Head,
    /// All readings, in order.
    pub readings: Vec<Reading>,
    /// All that was said of them, in order.
    pub marks: Vec<Mark>,
    /// All settings, in order.
    pub settings: Vec<Setting>,
    /// All signings, in order.
    pub signings: Vec<Signing>,
    /// All that was said to be fitted, in order.
    pub said: Vec<FittedSaid>,
    /// The drawer.
    pub stock: Vec<StockLine>,
    /// The ± limits of a piece of the family in nanometres.
    pub tolerance_nm: i64,
    /// The gauge's key.
    pub gauge_key: String,
    /// The gauge's name.
    pub gauge_name: String,
    /// The gauge's figures.
    pub gauge: Figures,
    /// The chance in window the shop asks for.
    pub floor: f64,
}

/// Reads a check's head and holds the check until the transaction ends.
pub async fn hold(store: &Store, tx: &mut Tx, job_no: i32, key: &str) -> Answer<Head> {
    sqlx::query_as!(
        Head,
        "select j.title, j.customer, j.sheet_key, j.revision, c.version, c.round, c.fitted_nm, c.phase
         from job_check c join job j using (shop_id, job_no)
         where c.shop_id = $1 and c.job_no = $2 and c.check_key = $3
         for update of c, j",
        store.shop_id,
        job_no,
        key
    )
    .fetch_optional(&mut **tx)
    .await?
    .ok_or_else(|| no_such(job_no, key))
}

/// Reads a check's head.
pub async fn head(store: &Store, job_no: i32, key: &str) -> Answer<Head> {
    sqlx::query_as!(
        Head,
        "select j.title, j.customer, j.sheet_key, j.revision, c.version, c.round, c.fitted_nm, c.phase
         from job_check c join job j using (shop_id, job_no)
         where c.shop_id = $1 and c.job_no = $2 and c.check_key = $3",
        store.shop_id,
        job_no,
        key
    )
    .fetch_optional(&store.pool)
    .await?
    .ok_or_else(|| no_such(job_no, key))
}

fn no_such(job_no: i32, key: &str) -> Problem {
    Problem::missing(format!(
        "Job {job_no} has no check “{key}”, or there is no such job."
    ))
}

/// Reads everything recorded of a check, in one query. `family` is the drawer it draws from.
pub async fn record<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    head: Head,
    job_no: i32,
    key: &str,
    family: Option<&str>,
) -> Answer<Record> {
    let row = sqlx::query!(
        r#"
        select
          (select coalesce(jsonb_agg(to_jsonb(r) order by r.reading_no), '[]') from reading r
            where r.shop_id = $1 and r.job_no = $2 and r.check_key = $3) as "readings!: Json<Vec<Reading>>",
          (select coalesce(jsonb_agg(to_jsonb(m) order by m.mark_no), '[]') from reading_mark m
            where m.shop_id = $1 and m.job_no = $2 and m.check_key = $3) as "marks!: Json<Vec<Mark>>",
          (select coalesce(jsonb_agg(to_jsonb(s) || jsonb_build_object('pieces', (
                select coalesce(jsonb_agg(to_jsonb(p) order by p.thickness_nm desc), '[]')
                from setting_piece p
                where p.shop_id = $1 and p.job_no = $2 and p.check_key = $3
                  and p.setting_no = s.setting_no)) order by s.setting_no), '[]')
            from setting s
            where s.shop_id = $1 and s.job_no = $2 and s.check_key = $3) as "settings!: Json<Vec<Setting>>",
          (select coalesce(jsonb_agg(to_jsonb(g) order by g.signing_no), '[]') from signing g
            where g.shop_id = $1 and g.job_no = $2 and g.check_key = $3) as "signings!: Json<Vec<Signing>>",
          (select coalesce(jsonb_agg(to_jsonb(f) order by f.said_no), '[]') from fitted_said f
            where f.shop_id = $1 and f.job_no = $2 and f.check_key = $3) as "said!: Json<Vec<FittedSaid>>",
          (select coalesce(jsonb_agg(to_jsonb(k) order by k.thickness_nm), '[]') from stock k
            where k.shop_id = $1 and k.family_key = $4) as "stock!: Json<Vec<StockLine>>",
          (select tolerance_nm from family where shop_id = $1 and family_key = $4) as tolerance_nm,
          (select to_jsonb(u) from gauge u where u.shop_id = $1 and u.usual) as "gauge: Json<GaugeLine>",
          (select floor from shop where shop_id = $1) as "floor!"
        "#,
        store.shop_id,
        job_no,
        key,
        family
    )
    .fetch_one(run)
    .await?;
    let gauge = row
        .gauge
        .ok_or_else(|| {
            Problem::missing("The shop has no usual gauge: its register must mark one.")
        })?
        .0;
    Ok(Record {
        job_no,
        check_key: key.to_owned(),
        head,
        readings: row.readings.0,
        marks: row.marks.0,
        settings: row.settings.0,
        signings: row.signings.0,
        said: row.said.0,
        stock: row.stock.0,
        tolerance_nm: row.tolerance_nm.unwrap_or(0),
        gauge_key: gauge.gauge_key,
        gauge_name: gauge.name,
        gauge: Figures {
            resolution_nm: Length::from_nm(gauge.resolution_nm),
            permissible_error_nm: Length::from_nm(gauge.permissible_error_nm),
            repeatability: gauge.repeatability_nm.map(|s_nm| Repeatability {
                s_nm,
                dof: gauge.repeatability_dof,
            }),
        },
        floor: row.floor,
    })
}

/// Adds a reading and returns it as it stands.
pub async fn add_reading(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    typed: &str,
    bench_unit: &str,
    travel: Length,
    who: &str,
) -> Answer<Reading> {
    let reading_no = of.readings.last().map_or(1, |r| r.reading_no + 1);
    let at = sqlx::query_scalar!(
        "insert into reading (shop_id, job_no, check_key, reading_no, round, typed, bench_unit,
                              travel_nm, gauge_key, who)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) returning at",
        store.shop_id,
        of.job_no,
        of.check_key,
        reading_no,
        of.head.round,
        typed,
        bench_unit,
        travel.nm(),
        of.gauge_key,
        who
    )
    .fetch_one(&mut **tx)
    .await?;
    Ok(Reading {
        reading_no,
        round: of.head.round,
        typed: typed.to_owned(),
        bench_unit: bench_unit.to_owned(),
        travel_nm: travel.nm(),
        who: who.to_owned(),
        at,
    })
}

/// Says something of a reading.
pub async fn mark_reading(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    reading_no: i32,
    mark: &str,
    reason: &str,
    who: &str,
) -> Answer<Mark> {
    let at = sqlx::query_scalar!(
        "insert into reading_mark (shop_id, job_no, check_key, reading_no, mark, reason, who)
         values ($1, $2, $3, $4, $5, $6, $7) returning at",
        store.shop_id,
        of.job_no,
        of.check_key,
        reading_no,
        mark,
        reason,
        who
    )
    .fetch_one(&mut **tx)
    .await?;
    Ok(Mark {
        reading_no,
        mark: mark.to_owned(),
        reason: reason.to_owned(),
        who: who.to_owned(),
        at,
    })
}

/// Says what is fitted now.
pub async fn say_fitted(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    fitted: Length,
    who: &str,
) -> Answer<()> {
    sqlx::query!(
        "insert into fitted_said (shop_id, job_no, check_key, fitted_nm, who) values ($1, $2, $3, $4, $5)",
        store.shop_id,
        of.job_no,
        of.check_key,
        fitted.nm(),
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Records a choice of pieces, and sets aside those that are in the drawer. `false` where another
/// has taken them meanwhile.
pub async fn choose(store: &Store, tx: &mut Tx, of: &Record, setting: &Setting) -> Answer<bool> {
    sqlx::query!(
        "insert into setting (shop_id, job_no, check_key, setting_no, round, family_key, total_nm,
                              fitted_before_nm, measured_nm, predicted_nm, u_nm, dof, chance, chosen_by)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14)",
        store.shop_id,
        of.job_no,
        of.check_key,
        setting.setting_no,
        setting.round,
        setting.family_key,
        setting.total_nm,
        setting.fitted_before_nm,
        setting.measured_nm,
        setting.predicted_nm,
        setting.u_nm,
        setting.dof,
        setting.chance,
        setting.chosen_by
    )
    .execute(&mut **tx)
    .await?;
    // Ascending by size, as everyone locks them, so that two choices cannot block each other.
    let mut pieces = setting.pieces.clone();
    pieces.sort_by_key(|p| p.thickness_nm);
    for piece in &pieces {
        let taken = sqlx::query!(
            "update stock set reserved = reserved + $4
             where shop_id = $1 and family_key = $2 and thickness_nm = $3 and on_hand - reserved >= $4",
            store.shop_id,
            setting.family_key,
            piece.thickness_nm,
            piece.reserved
        )
        .execute(&mut **tx)
        .await?;
        if taken.rows_affected() == 0 {
            return Ok(false);
        }
        sqlx::query!(
            "insert into setting_piece (shop_id, job_no, check_key, setting_no, family_key, thickness_nm, count, reserved)
             values ($1, $2, $3, $4, $5, $6, $7, $8)",
            store.shop_id,
            of.job_no,
            of.check_key,
            setting.setting_no,
            setting.family_key,
            piece.thickness_nm,
            piece.count,
            piece.reserved
        )
        .execute(&mut **tx)
        .await?;
    }
    Ok(true)
}

/// Ends a choice: lets its pieces go, or notes them as fitted (and no longer in the drawer).
pub async fn end_setting(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    setting: &Setting,
    fitted: bool,
    who: &str,
) -> Answer<()> {
    let state = if fitted { "fitted" } else { "let_go" };
    sqlx::query!(
        "update setting set state = $5, ended_by = $6, ended_at = now()
         where shop_id = $1 and job_no = $2 and check_key = $3 and setting_no = $4",
        store.shop_id,
        of.job_no,
        of.check_key,
        setting.setting_no,
        state,
        who
    )
    .execute(&mut **tx)
    .await?;
    let mut pieces = setting.pieces.clone();
    pieces.sort_by_key(|p| p.thickness_nm);
    for piece in &pieces {
        let gone = if fitted { piece.reserved } else { 0 };
        let on_hand = sqlx::query_scalar!(
            "update stock set reserved = reserved - $4, on_hand = on_hand - $5
             where shop_id = $1 and family_key = $2 and thickness_nm = $3 returning on_hand",
            store.shop_id,
            setting.family_key,
            piece.thickness_nm,
            piece.reserved,
            gone
        )
        .fetch_one(&mut **tx)
        .await?;
        if gone > 0 {
            super::drawer::note_move(
                store,
                tx,
                &setting.family_key,
                piece.thickness_nm,
                (on_hand + gone, on_hand),
                "fitted",
                Some(of.job_no),
                who,
            )
            .await?;
        }
    }
    if !fitted {
        sqlx::query!(
            "update setting_piece set reserved = 0
             where shop_id = $1 and job_no = $2 and check_key = $3 and setting_no = $4",
            store.shop_id,
            of.job_no,
            of.check_key,
            setting.setting_no
        )
        .execute(&mut **tx)
        .await?;
    }
    Ok(())
}

/// Records a signing-off or a reopening.
pub async fn sign(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    signing: &Signing,
    u: Option<(f64, Option<f64>)>,
    readings: Option<i32>,
) -> Answer<()> {
    let signing_no = i32::try_from(of.signings.len()).unwrap_or(i32::MAX - 1) + 1;
    sqlx::query!(
        "insert into signing (shop_id, job_no, check_key, signing_no, act, call, achieved_nm, u_nm,
                              dof, chance, readings, reason, who)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13)",
        store.shop_id,
        of.job_no,
        of.check_key,
        signing_no,
        signing.act,
        signing.call,
        signing.achieved_nm,
        u.map(|u| u.0),
        u.and_then(|u| u.1),
        signing.chance,
        readings,
        signing.reason,
        signing.who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Where a check stands after a write.
#[derive(Clone, Debug)]
pub struct Standing<'a> {
    /// The phase.
    pub phase: &'a str,
    /// The round.
    pub round: i32,
    /// What is fitted, where that is known.
    pub fitted_nm: Option<i64>,
    /// The call on the readings of this round, where there is one.
    pub call: Option<&'a str>,
    /// The clearance to show, where there is one.
    pub shown_nm: Option<f64>,
}

/// Stores where a check stands, and makes its version one more.
pub async fn settle(store: &Store, tx: &mut Tx, of: &Record, at: &Standing<'_>) -> Answer<()> {
    sqlx::query!(
        "update job_check set phase = $4, round = $5, fitted_nm = $6, call = $7, shown_nm = $8,
                version = version + 1
         where shop_id = $1 and job_no = $2 and check_key = $3",
        store.shop_id,
        of.job_no,
        of.check_key,
        at.phase,
        at.round,
        at.fitted_nm,
        at.call,
        at.shown_nm
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}
