//! The records of one check: readings, marks, settings, signings.

use std::collections::{BTreeMap, HashMap};

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::Call;
use anvil_arithmetic::verdict::sisters::Sisters;
use anvil_rules::job::check::act::NewLayout;
use anvil_rules::job::check::assess::Assessment;
use anvil_rules::job::check::past::{BoxesBefore, MeasuredBefore};
use anvil_rules::job::check::record::{
    Assembly, BiasDecision, ChecklistEntry, FittedEntry, Head, Mark, OtherDrawer, PoolRow,
    ReadingRecord, Record, Setting, SettingState, ShimsEntry, SignAct, Signing, StockLine,
    TargetOverride,
};
use anvil_rules::job::check::workflow::Phase;
use anvil_rules::shop::drawers::StockChange;
use anvil_rules::shop::gauge_register::RegisteredGauge;
use chrono::{DateTime, Utc};
use sqlx::types::Json;

use super::drawer::{Line, Noted};
use super::error::{DbError, DbResult, in_row, word, word_if};
use super::{Store, Tx};

/// A check's head as the database has it.
struct HeadRow {
    title: String,
    customer: String,
    sheet_key: String,
    revision: i32,
    variant: String,
    version: i32,
    round: i32,
    fitted_nm: Option<i64>,
    phase: String,
    way: Option<String>,
    bench_c: Option<f64>,
    standing: String,
}

impl HeadRow {
    fn head(self, job_no: i32, key: &str) -> DbResult<Head> {
        let row = || format!("check “{key}” of job {job_no}");
        Ok(Head {
            phase: word(&self.phase, row)?,
            way: word_if(self.way.as_deref(), row)?,
            title: self.title,
            customer: self.customer,
            sheet_key: self.sheet_key,
            revision: self.revision,
            variant: self.variant,
            version: self.version,
            round: self.round,
            fitted_nm: self.fitted_nm,
            bench_c: self.bench_c,
            standing: word(&self.standing, row)?,
        })
    }
}

/// A write that is begun, or was done before.
pub enum Begun<T> {
    Fresh(T),
    /// What it came to then, as it was noted.
    Before(String),
}

/// A write on a check, begun.
pub struct Started {
    /// The check, held until the transaction ends.
    pub head: Head,
    /// When the write was begun, by the database's clock.
    pub at: DateTime<Utc>,
}

/// Claims a write's key, makes sure of who writes, and holds the check, in one statement: a person
/// waits for each of them.
///
/// The key is claimed before the check is held, so that of two twins the second waits for the first
/// and never holds what the first needs. The job is held before its check, as everywhere (see [`super::locks`]).
pub async fn begin(
    store: &Store,
    tx: &mut Tx,
    write: (&str, &str),
    who: &str,
    job_no: i32,
    key: &str,
) -> DbResult<Begun<Started>> {
    let (write_key, fingerprint) = write;
    let row = sqlx::query!(
        r#"with claimed as (
             insert into done_write (shop_id, write_key, fingerprint) values ($1, $2, $3)
             on conflict do nothing returning 1
           ), mine as (select count(*) = 1 as fresh from claimed)
           select mine.fresh as "fresh!", now() as "at!",
                  exists (select from person where shop_id = $1 and initials = $4) as "known!",
                  j.title as "title?", j.customer as "customer?", j.sheet_key as "sheet_key?",
                  j.revision as "revision?", j.variant as "variant?", c.version as "version?", c.round as "round?",
                  c.fitted_nm, c.phase as "phase?", c.way, c.bench_c, j.standing as "standing?"
           from mine
             left join lateral (select * from job
               where mine.fresh and shop_id = $1 and job_no = $5 for update) j on true
             left join lateral (select * from job_check
               where shop_id = $1 and job_no = j.job_no and check_key = $6 for update) c on true"#,
        store.shop_id,
        write_key,
        fingerprint,
        who,
        job_no,
        key
    )
    .fetch_one(&mut **tx)
    .await?;
    if !row.fresh {
        let said = super::writes::same(store, tx, write_key, fingerprint).await?;
        return Ok(Begun::Before(said));
    }
    super::writes::in_its_day(write_key)?;
    if !row.known {
        return Err(super::shop::nobody(who).into());
    }
    let head = (|| {
        Some(HeadRow {
            title: row.title?,
            customer: row.customer?,
            sheet_key: row.sheet_key?,
            revision: row.revision?,
            variant: row.variant?,
            version: row.version?,
            round: row.round?,
            fitted_nm: row.fitted_nm,
            phase: row.phase?,
            way: row.way,
            bench_c: row.bench_c,
            standing: row.standing?,
        })
    })();
    let head = head
        .ok_or_else(|| no_such(job_no, key))?
        .head(job_no, key)?;
    Ok(Begun::Fresh(Started { head, at: row.at }))
}

/// Reads a check's head.
pub async fn head<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    job_no: i32,
    key: &str,
) -> DbResult<Head> {
    sqlx::query_as!(
        HeadRow,
        "select j.title, j.customer, j.sheet_key, j.revision, j.variant, c.version, c.round, c.fitted_nm, c.phase,
                c.way, c.bench_c, j.standing as \"standing!\"
         from job_check c join job j using (shop_id, job_no)
         where c.shop_id = $1 and c.job_no = $2 and c.check_key = $3",
        store.shop_id,
        job_no,
        key
    )
    .fetch_optional(run)
    .await?
    .ok_or_else(|| no_such(job_no, key))?
    .head(job_no, key)
}

/// The same within a transaction that holds it, with when that was begun by the database's clock.
///
/// # Errors
/// Where there is no such check.
pub async fn head_at(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    key: &str,
) -> DbResult<(Head, DateTime<Utc>)> {
    let at = sqlx::query_scalar!("select now() as \"at!\"")
        .fetch_one(&mut **tx)
        .await?;
    Ok((head(store, &mut **tx, job_no, key).await?, at))
}

/// The families that the open choice of a check is of.
pub async fn chosen_of(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    key: &str,
) -> DbResult<Vec<String>> {
    Ok(sqlx::query_scalar!(
        "select family_key from setting
         where shop_id = $1 and job_no = $2 and check_key = $3 and state = 'chosen'",
        store.shop_id,
        job_no,
        key
    )
    .fetch_all(&mut **tx)
    .await?)
}

fn no_such(job_no: i32, key: &str) -> DbError {
    DbError::Missing(format!(
        "Job {job_no} has no check “{key}”, or there is no such job."
    ))
}

/// Everything recorded of a check itself, as the database has it.
struct Recorded {
    readings: Json<Vec<ReadingRecord>>,
    marks: Json<Vec<Mark>>,
    settings: Json<Vec<Setting>>,
    signings: Json<Vec<Signing>>,
    fitted_entries: Json<Vec<FittedEntry>>,
    shims: Json<Vec<ShimsEntry>>,
    checklist: Json<Vec<ChecklistEntry>>,
    target_overrides: Json<Vec<TargetOverride>>,
    bias_decisions: Json<Vec<BiasDecision>>,
    assemblies: Json<Vec<Assembly>>,
}

/// What is recorded of a check, out of a row that has it among other columns.
macro_rules! recorded {
    ($row:ident) => {
        Recorded {
            readings: $row.readings,
            marks: $row.marks,
            settings: $row.settings,
            signings: $row.signings,
            fitted_entries: $row.fitted_entries,
            shims: $row.shims,
            checklist: $row.checklist,
            target_overrides: $row.target_overrides,
            bias_decisions: $row.bias_decisions,
            assemblies: $row.assemblies,
        }
    };
}

/// What checks are worked out with and share: the drawers, the gauges, and what the shop asks for.
struct Surroundings {
    stock: Json<Vec<StockLine>>,
    /// How far a marked piece may be off, by family.
    tolerances: Json<BTreeMap<String, i64>>,
    gauges: Json<Vec<RegisteredGauge>>,
    pools: Json<Vec<PoolRow>>,
    required_probability: f64,
}

impl Surroundings {
    /// The record of a check that draws from these families, its first one first.
    fn record(
        &self,
        (job_no, key, head): (i32, &str, Head),
        families: &[String],
        of: Recorded,
        measured_before: MeasuredBefore,
    ) -> Record {
        let mut drawers = families.iter().map(|f| self.drawer(f));
        let (stock, tolerance_nm) = drawers
            .next()
            .map_or_else(Default::default, |d| (d.stock, d.tolerance_nm));
        Record {
            job_no,
            check_key: key.to_owned(),
            head,
            readings: of.readings.0,
            marks: of.marks.0,
            settings: of.settings.0,
            signings: of.signings.0,
            fitted_entries: of.fitted_entries.0,
            target_overrides: of.target_overrides.0,
            bias_decisions: of.bias_decisions.0,
            assemblies: of.assemblies.0,
            measured_before,
            stock,
            tolerance_nm,
            drawer_tolerance_nm: tolerance_nm,
            others: drawers.collect(),
            shims: of.shims.0,
            gauges: self.gauges.0.clone(),
            pools: self.pools.0.clone(),
            checklist: of.checklist.0,
            required_probability: self.required_probability,
            steps_out: BTreeMap::new(),
        }
    }

    /// The drawer of a family.
    fn drawer(&self, family: &str) -> OtherDrawer {
        let stock = self.stock.iter().filter(|l| l.family_key == family);
        OtherDrawer {
            family_key: family.to_owned(),
            tolerance_nm: self.tolerances.get(family).copied().unwrap_or(0),
            stock: stock.cloned().collect(),
        }
    }
}

/// Reads everything recorded of a check, in one query. `families` are the drawers it may draw from, its first
/// one first. None where the check has changed since its head was read.
pub async fn record<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    head: Head,
    job_no: i32,
    key: &str,
    families: &[String],
) -> DbResult<Option<Record>> {
    let row = sqlx::query!(
        r#"
        select
          v.readings as "readings!: Json<Vec<ReadingRecord>>", v.marks as "marks!: Json<Vec<Mark>>",
          v.settings as "settings!: Json<Vec<Setting>>", v.signings as "signings!: Json<Vec<Signing>>",
          v.fitted_entries as "fitted_entries!: Json<Vec<FittedEntry>>", v.shims as "shims!: Json<Vec<ShimsEntry>>",
          v.checklist as "checklist!: Json<Vec<ChecklistEntry>>",
          v.target_overrides as "target_overrides!: Json<Vec<TargetOverride>>",
          v.bias_decisions as "bias_decisions!: Json<Vec<BiasDecision>>",
          v.assemblies as "assemblies!: Json<Vec<Assembly>>",
          (select coalesce(jsonb_agg(to_jsonb(k) order by k.thickness_nm, k.grade), '[]') from stock_line k
            where k.shop_id = $1 and k.family_key = any($4)) as "stock!: Json<Vec<StockLine>>",
          (select coalesce(jsonb_object_agg(family_key, tolerance_nm), '{}') from family
            where shop_id = $1 and family_key = any($4)) as "tolerances!: Json<BTreeMap<String, i64>>",
          (select coalesce(jsonb_agg(to_jsonb(u) order by u.retired, u.usual desc, u.gauge_key), '[]') from gauge u
            where u.shop_id = $1) as "gauges!: Json<Vec<RegisteredGauge>>",
          (select coalesce(jsonb_agg(to_jsonb(o) order by o.gauge_key, o.way), '[]') from scatter_pool o
            where o.shop_id = $1) as "pools!: Json<Vec<PoolRow>>",
          (select jsonb_build_object('boxes', count(*),
                'least_sum_nm', coalesce(min(b.fitted_before_nm + b.measured_nm), 0),
                'most_sum_nm', coalesce(max(b.fitted_before_nm + b.measured_nm), 0),
                'least_difference_nm', coalesce(min(b.fitted_before_nm - b.measured_nm), 0),
                'most_difference_nm', coalesce(max(b.fitted_before_nm - b.measured_nm), 0))
            from setting b join job w using (shop_id, job_no)
            where b.shop_id = $1 and w.sheet_key = $5 and b.check_key = $3 and b.job_no <> $2 and b.round = 0
              and b.state = 'fitted' and b.family_key = ($4::text[])[1]) as "before!: Json<MeasuredBefore>",
          (select floor from shop where shop_id = $1) as "floor!"
        from check_record v
        where v.shop_id = $1 and v.job_no = $2 and v.check_key = $3 and v.version = $6
        "#,
        store.shop_id,
        job_no,
        key,
        families,
        head.sheet_key,
        head.version
    )
    .fetch_optional(run)
    .await
    .map_err(|e| in_row(e, || format!("check “{key}” of job {job_no}")))?;
    let Some(row) = row else { return Ok(None) };
    let around = Surroundings {
        stock: row.stock,
        tolerances: row.tolerances,
        gauges: row.gauges,
        pools: row.pools,
        required_probability: row.floor,
    };
    let of = recorded!(row);
    Ok(Some(around.record(
        (job_no, key, head),
        families,
        of,
        row.before.0,
    )))
}

/// A check to be read among many.
pub struct Asked<'a> {
    pub job_no: i32,
    pub check_key: &'a str,
    /// The drawers it may draw from, its first one first.
    pub families: Vec<String>,
}

/// Reads everything recorded of many checks, in their order; in a transaction that sees one moment.
///
/// # Errors
/// Where one of them is not there.
pub async fn records(store: &Store, tx: &mut Tx, asked: &[Asked<'_>]) -> DbResult<Vec<Record>> {
    let jobs: Vec<i32> = asked.iter().map(|a| a.job_no).collect();
    let keys: Vec<String> = asked.iter().map(|a| a.check_key.to_owned()).collect();
    let mut families: Vec<String> = asked.iter().flat_map(|a| a.families.clone()).collect();
    families.sort_unstable();
    families.dedup();
    let around = sqlx::query_as!(
        Surroundings,
        r#"select
          (select coalesce(jsonb_agg(to_jsonb(k) order by k.thickness_nm, k.grade), '[]') from stock_line k
            where k.shop_id = $1 and k.family_key = any($2)) as "stock!: Json<Vec<StockLine>>",
          (select coalesce(jsonb_object_agg(family_key, tolerance_nm), '{}') from family
            where shop_id = $1 and family_key = any($2)) as "tolerances!: Json<BTreeMap<String, i64>>",
          (select coalesce(jsonb_agg(to_jsonb(u) order by u.retired, u.usual desc, u.gauge_key), '[]') from gauge u
            where u.shop_id = $1) as "gauges!: Json<Vec<RegisteredGauge>>",
          (select coalesce(jsonb_agg(to_jsonb(o) order by o.gauge_key, o.way), '[]') from scatter_pool o
            where o.shop_id = $1) as "pools!: Json<Vec<PoolRow>>",
          floor as "required_probability!"
        from shop where shop_id = $1"#,
        store.shop_id,
        &families
    )
    .fetch_one(&mut **tx)
    .await
    .map_err(|e| in_row(e, || "the drawers".to_owned()))?;
    let boxes = measured_before(store, tx, &keys).await?;
    let rows = sqlx::query!(
        r#"
        select j.title, j.customer, j.sheet_key, j.revision, j.variant, c.version, c.round, c.fitted_nm, c.phase, c.way, c.bench_c,
          j.standing as "standing!",
          v.readings as "readings!: Json<Vec<ReadingRecord>>", v.marks as "marks!: Json<Vec<Mark>>",
          v.settings as "settings!: Json<Vec<Setting>>", v.signings as "signings!: Json<Vec<Signing>>",
          v.fitted_entries as "fitted_entries!: Json<Vec<FittedEntry>>", v.shims as "shims!: Json<Vec<ShimsEntry>>",
          v.checklist as "checklist!: Json<Vec<ChecklistEntry>>",
          v.target_overrides as "target_overrides!: Json<Vec<TargetOverride>>",
          v.bias_decisions as "bias_decisions!: Json<Vec<BiasDecision>>",
          v.assemblies as "assemblies!: Json<Vec<Assembly>>"
        from unnest($2::integer[], $3::text[]) with ordinality a (job_no, check_key, place)
          join job j on j.shop_id = $1 and j.job_no = a.job_no
          join job_check c on c.shop_id = $1 and c.job_no = a.job_no and c.check_key = a.check_key
          join check_record v on v.shop_id = $1 and v.job_no = a.job_no and v.check_key = a.check_key
        order by a.place
        "#,
        store.shop_id,
        &jobs,
        &keys
    )
    .fetch_all(&mut **tx)
    .await
    .map_err(|e| in_row(e, || "the checks of the bench".to_owned()))?;
    if rows.len() != asked.len() {
        return Err(DbError::Missing(
            "A check of the bench is not there any more.".into(),
        ));
    }
    let records = rows.into_iter().zip(asked).map(|(row, a)| {
        let head = HeadRow {
            title: row.title,
            customer: row.customer,
            sheet_key: row.sheet_key,
            revision: row.revision,
            variant: row.variant,
            version: row.version,
            round: row.round,
            fitted_nm: row.fitted_nm,
            phase: row.phase,
            way: row.way,
            bench_c: row.bench_c,
            standing: row.standing,
        };
        let head = head.head(a.job_no, a.check_key)?;
        let of = recorded!(row);
        let before = a.families.first().and_then(|family| {
            boxes.get(&(
                head.sheet_key.clone(),
                a.check_key.to_owned(),
                family.clone(),
            ))
        });
        let before = before.map_or_else(MeasuredBefore::default, |b| b.without(a.job_no));
        Ok(around.record((a.job_no, a.check_key, head), &a.families, of, before))
    });
    records.collect()
}

/// What was measured on boxes before their first pieces were fitted, of these checks, by sheet, check and family.
async fn measured_before(
    store: &Store,
    tx: &mut Tx,
    keys: &[String],
) -> DbResult<HashMap<(String, String, String), BoxesBefore>> {
    let rows = sqlx::query!(
        "select w.sheet_key, b.check_key, b.family_key, b.job_no, b.fitted_before_nm, b.measured_nm
         from setting b join job w using (shop_id, job_no)
         where b.shop_id = $1 and b.check_key = any($2) and b.round = 0 and b.state = 'fitted'",
        store.shop_id,
        keys
    )
    .fetch_all(&mut **tx)
    .await?;
    let mut boxes: HashMap<_, BoxesBefore> = HashMap::new();
    for row in rows {
        let of = (row.sheet_key, row.check_key, row.family_key);
        boxes
            .entry(of)
            .or_default()
            .add(row.job_no, row.fitted_before_nm as f64, row.measured_nm);
    }
    Ok(boxes)
}

/// Adds the last reading of a record, and stores where the check stands with it, in one statement.
pub async fn add_reading(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    reading: &ReadingRecord,
    at: &CheckStatus,
) -> DbResult<()> {
    sqlx::query!(
        "with added as (
           insert into reading (shop_id, job_no, check_key, reading_no, round, typed, bench_unit, way,
                                taken, gauge_key, who, at)
           values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12))
         update job_check set phase = $13, call = $14, shown_nm = $15, shown_n_m = $16,
                version = version + 1
         where shop_id = $1 and job_no = $2 and check_key = $3",
        store.shop_id,
        of.job_no,
        of.check_key,
        reading.reading_no,
        reading.round,
        reading.typed,
        <&str>::from(reading.bench_unit),
        <&str>::from(reading.way),
        serde_json::to_value(&reading.taken).map_err(|e| DbError::unreadable("a reading", e))?,
        reading.gauge_key,
        reading.who,
        reading.at,
        <&str>::from(at.phase),
        at.call.map(<&str>::from),
        at.shown_nm,
        at.shown_n_m
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Notes how the shims lie at the ends of a shaft.
pub async fn say_shims(store: &Store, tx: &mut Tx, of: &Record, said: &ShimsEntry) -> DbResult<()> {
    let nm = |shims: &[Length]| shims.iter().map(|s| s.nm()).collect::<Vec<i64>>();
    sqlx::query!(
        "insert into shims_said (shop_id, job_no, check_key, left_nm, right_nm, moved, predicted_nm, who)
         values ($1, $2, $3, $4, $5, $6, $7, $8)",
        store.shop_id,
        of.job_no,
        of.check_key,
        &nm(&said.left_nm),
        &nm(&said.right_nm),
        said.moved,
        said.predicted_nm,
        said.who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Notes how a pack was laid out.
pub async fn lay(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    laid: &NewLayout,
    who: &str,
) -> DbResult<()> {
    let plates: Vec<String> = laid
        .plates
        .iter()
        .map(|k| <&str>::from(*k).to_owned())
        .collect();
    sqlx::query!(
        "insert into pack_laid (shop_id, job_no, check_key, plates, soaked, springs, who)
         values ($1, $2, $3, $4, $5, $6, $7)",
        store.shop_id,
        of.job_no,
        of.check_key,
        &plates,
        laid.soaked,
        laid.springs.map(|n| i32::try_from(n).unwrap_or(i32::MAX)),
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Says which way counts.
pub async fn say_way(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    way: Method,
    who: &str,
) -> DbResult<()> {
    sqlx::query!(
        "with said as (insert into way_said (shop_id, job_no, check_key, way, who) values ($1, $2, $3, $4, $5))
         update job_check set way = $4 where shop_id = $1 and job_no = $2 and check_key = $3",
        store.shop_id,
        of.job_no,
        of.check_key,
        <&str>::from(way),
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Says how warm it was at the bench.
pub async fn say_bench(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    bench_c: f64,
    who: &str,
) -> DbResult<()> {
    sqlx::query!(
        "with said as (insert into bench_said (shop_id, job_no, check_key, bench_c, who) values ($1, $2, $3, $4, $5))
         update job_check set bench_c = $4 where shop_id = $1 and job_no = $2 and check_key = $3",
        store.shop_id,
        of.job_no,
        of.check_key,
        bench_c,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Says what was seen to, or not.
pub async fn say_tick(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    tick: &str,
    done: bool,
    who: &str,
) -> DbResult<()> {
    sqlx::query!(
        "insert into tick (shop_id, job_no, check_key, round, tick, done, who) values ($1, $2, $3, $4, $5, $6, $7)",
        store.shop_id,
        of.job_no,
        of.check_key,
        of.head.round,
        tick,
        done,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Adds scatter to the pool of a gauge used one way, or takes it off where it is below zero.
async fn pool(
    store: &Store,
    tx: &mut Tx,
    gauge_key: &str,
    way: Method,
    squares: f64,
    dof: f64,
) -> DbResult<()> {
    sqlx::query!(
        "insert into scatter_pool (shop_id, gauge_key, way, squares, dof) values ($1, $2, $3, $4, $5)
         on conflict (shop_id, gauge_key, way) do update set
             squares = greatest(0, scatter_pool.squares + excluded.squares),
             dof = greatest(0, scatter_pool.dof + excluded.dof)",
        store.shop_id,
        gauge_key,
        <&str>::from(way),
        squares,
        dof
    )
    .execute(&mut **tx)
    .await?;
    super::due::note(store, tx, gauge_key, way).await
}

/// Says something of a reading.
pub async fn mark_reading(store: &Store, tx: &mut Tx, of: &Record, said: &Mark) -> DbResult<()> {
    sqlx::query!(
        "insert into reading_mark (shop_id, job_no, check_key, reading_no, mark, reason, who, at)
         values ($1, $2, $3, $4, $5, $6, $7, $8)",
        store.shop_id,
        of.job_no,
        of.check_key,
        said.reading_no,
        <&str>::from(said.mark),
        said.reason,
        said.who,
        said.at
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Says what is fitted now.
pub async fn say_fitted(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    fitted: Length,
    who: &str,
) -> DbResult<()> {
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

/// Says where to aim on this job, and why.
pub async fn say_aim(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    said: &TargetOverride,
) -> DbResult<()> {
    sqlx::query!(
        "insert into aim_said (shop_id, job_no, check_key, as_sheet, low_nm, high_nm, aim_from_nm,
                               aim_to_nm, reason, who)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)",
        store.shop_id,
        of.job_no,
        of.check_key,
        said.as_sheet,
        said.low_nm,
        said.high_nm,
        said.aim_from_nm,
        said.aim_to_nm,
        said.reason,
        said.who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Says that the usual difference counts on this job, or no longer does.
pub async fn say_usual(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    said: &BiasDecision,
) -> DbResult<()> {
    sqlx::query!(
        "insert into usual_said (shop_id, job_no, check_key, counts, mean_nm, u_nm, dof, boxes, who)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9)",
        store.shop_id,
        of.job_no,
        of.check_key,
        said.counts,
        said.mean_nm,
        said.u_nm,
        said.dof,
        said.boxes,
        said.who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// What was predicted for a check of a finished job, and what came of it.
#[derive(Clone, Debug)]
pub struct PastRow {
    pub check_key: String,
    pub job_no: i32,
    /// What was on the bench.
    pub title: String,
    /// When it was handed over.
    pub finished_at: DateTime<Utc>,
    /// The clearance predicted, without any usual difference.
    pub predicted_nm: f64,
    /// The standard uncertainty of the prediction.
    pub u_predicted_nm: f64,
    /// The clearance signed off.
    pub achieved_nm: f64,
    /// Its standard uncertainty.
    pub u_achieved_nm: f64,
}

/// What was predicted and what came of it, over the finished jobs of a sheet: the last fitting of
/// each check that was signed off on what was measured after it. The oldest first.
pub async fn past(store: &Store, sheet_key: &str, key: Option<&str>) -> DbResult<Vec<PastRow>> {
    Ok(sqlx::query_as!(
        PastRow,
        r#"select s.check_key, s.job_no, j.title, j.finished_at as "finished_at!",
                  s.predicted_nm - s.usual_nm as "predicted_nm!", s.u_nm as u_predicted_nm,
                  g.achieved_nm as "achieved_nm!", g.u_nm as "u_achieved_nm!"
           from job j
             join lateral (select distinct on (t.check_key) t.* from setting t
               where t.shop_id = j.shop_id and t.job_no = j.job_no and t.state = 'fitted'
               order by t.check_key, t.setting_no desc) s on true
             join lateral (select i.* from signing i
               where i.shop_id = j.shop_id and i.job_no = j.job_no and i.check_key = s.check_key
               order by i.signing_no desc limit 1) g on g.act = 'signed'
           where j.shop_id = $1 and j.sheet_key = $2 and j.standing = 'handed_over'
             and ($3::text is null or s.check_key = $3)
             and g.achieved_nm is not null and g.u_nm is not null
           order by j.finished_at, j.job_no"#,
        store.shop_id,
        sheet_key,
        key
    )
    .fetch_all(&store.pool)
    .await?)
}

/// What the other boxes of a sheet were signed off on for a check.
pub async fn sisters(store: &Store, sheet_key: &str, key: &str, but: i32) -> DbResult<Sisters> {
    let row = sqlx::query!(
        // In one order: what is added otherwise ends in another digit.
        r#"select count(*) as "boxes!", coalesce(avg(g.achieved_nm order by j.job_no), 0) as "mean_nm!",
                  coalesce(stddev_samp(g.achieved_nm order by j.job_no), 0) as "s_nm!"
           from job j
             join lateral (select i.act, i.achieved_nm from signing i
               where i.shop_id = j.shop_id and i.job_no = j.job_no and i.check_key = $3
               order by i.signing_no desc limit 1) g on g.act = 'signed'
           where j.shop_id = $1 and j.sheet_key = $2 and j.job_no <> $4 and j.standing <> 'put_away'
             and g.achieved_nm is not null"#,
        store.shop_id,
        sheet_key,
        key,
        but
    )
    .fetch_one(&store.pool)
    .await?;
    Ok(Sisters {
        boxes: usize::try_from(row.boxes).unwrap_or(usize::MAX),
        mean_nm: row.mean_nm,
        s_nm: row.s_nm,
    })
}

/// The figures that checks of a job are signed off at, in nanometres.
pub async fn signed_figures(store: &Store, job_no: i32, keys: &[String]) -> DbResult<Vec<f64>> {
    let figures = sqlx::query_scalar!(
        r#"select g.achieved_nm as "achieved_nm!"
           from unnest($3::text[]) a (check_key)
             join lateral (select i.act, i.achieved_nm from signing i
               where i.shop_id = $1 and i.job_no = $2 and i.check_key = a.check_key
               order by i.signing_no desc limit 1) g on g.act = 'signed'
           where g.achieved_nm is not null"#,
        store.shop_id,
        job_no,
        keys
    )
    .fetch_all(&store.pool)
    .await?;
    Ok(figures)
}

/// The open choices of pieces of a family: job and check.
pub async fn holders(store: &Store, family: &str) -> DbResult<Vec<(i32, String)>> {
    let rows = sqlx::query!(
        "select distinct t.job_no, t.check_key
         from setting t join setting_piece p using (shop_id, job_no, check_key, setting_no)
         where t.shop_id = $1 and t.family_key = $2 and t.state = 'chosen' and p.reserved > 0
         order by t.job_no, t.check_key",
        store.shop_id,
        family
    )
    .fetch_all(&store.pool)
    .await?;
    Ok(rows.into_iter().map(|r| (r.job_no, r.check_key)).collect())
}

/// The windows that a job works to in place of its sheet's: check, tight limit, loose limit.
pub async fn own_windows(
    store: &Store,
    job_no: i32,
) -> DbResult<Vec<(String, Option<i64>, Option<i64>)>> {
    let rows = sqlx::query!(
        "select check_key, low_nm, high_nm from (
           select distinct on (check_key) * from aim_said
           where shop_id = $1 and job_no = $2 order by check_key, said_no desc) a
         where not as_sheet",
        store.shop_id,
        job_no
    )
    .fetch_all(&store.pool)
    .await?;
    let row = rows.into_iter();
    Ok(row.map(|r| (r.check_key, r.low_nm, r.high_nm)).collect())
}

/// Records a choice of pieces, and sets aside those that are in the drawer. `false` where another
/// has taken them meanwhile.
pub async fn choose(store: &Store, tx: &mut Tx, of: &Record, setting: &Setting) -> DbResult<bool> {
    sqlx::query!(
        "insert into setting (shop_id, job_no, check_key, setting_no, round, family_key, total_nm,
                              fitted_before_nm, measured_nm, predicted_nm, u_nm, dof, chance, chosen_by,
                              usual_nm)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15)",
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
        setting.chosen_by,
        setting.usual_nm
    )
    .execute(&mut **tx)
    .await?;
    // Ascending by size, as everyone locks them, so that two choices cannot block each other.
    let mut pieces = setting.pieces.clone();
    pieces.sort_by_key(|p| (p.thickness_nm, <&str>::from(p.grade)));
    for piece in &pieces {
        let taken = sqlx::query!(
            "update stock set reserved = reserved + $4
             where shop_id = $1 and family_key = $2 and thickness_nm = $3 and grade = $5
               and on_hand - reserved >= $4",
            store.shop_id,
            setting.family_key,
            piece.thickness_nm,
            piece.reserved,
            <&str>::from(piece.grade)
        )
        .execute(&mut **tx)
        .await?;
        if taken.rows_affected() == 0 {
            return Ok(false);
        }
        sqlx::query!(
            "insert into setting_piece (shop_id, job_no, check_key, setting_no, family_key, thickness_nm,
                                        grade, count, reserved)
             values ($1, $2, $3, $4, $5, $6, $7, $8, $9)",
            store.shop_id,
            of.job_no,
            of.check_key,
            setting.setting_no,
            setting.family_key,
            piece.thickness_nm,
            <&str>::from(piece.grade),
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
    state: SettingState,
    who: &str,
) -> DbResult<()> {
    let fitted = state == SettingState::Fitted;
    sqlx::query!(
        "update setting set state = $5, ended_by = $6, ended_at = now()
         where shop_id = $1 and job_no = $2 and check_key = $3 and setting_no = $4",
        store.shop_id,
        of.job_no,
        of.check_key,
        setting.setting_no,
        <&str>::from(state),
        who
    )
    .execute(&mut **tx)
    .await?;
    let mut pieces = setting.pieces.clone();
    pieces.sort_by_key(|p| (p.thickness_nm, <&str>::from(p.grade)));
    for piece in &pieces {
        let gone = if fitted { piece.reserved } else { 0 };
        let left = sqlx::query!(
            "update stock set reserved = reserved - $4, on_hand = on_hand - $5
             where shop_id = $1 and family_key = $2 and thickness_nm = $3 and grade = $6
             returning on_hand, on_order",
            store.shop_id,
            setting.family_key,
            piece.thickness_nm,
            piece.reserved,
            gone,
            <&str>::from(piece.grade)
        )
        .fetch_one(&mut **tx)
        .await?;
        if gone > 0 {
            let line = Line {
                family: &setting.family_key,
                thickness_nm: piece.thickness_nm,
                grade: piece.grade,
            };
            let noted = Noted {
                on_order: (left.on_order, left.on_order),
                check: Some((of.job_no, &of.check_key)),
                ..Noted::of(
                    line,
                    (left.on_hand + gone, left.on_hand),
                    StockChange::Fitted,
                    who,
                )
            };
            super::drawer::note_move(store, tx, &noted).await?;
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

/// Notes that what was said to be fitted was not: its pieces are in the drawer again, and what was put back for them is
/// out of it.
pub async fn undo_fitting(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    setting: &Setting,
    who: &str,
) -> DbResult<()> {
    let at = (of.job_no, of.check_key.as_str());
    sqlx::query!(
        "insert into fitting_undone (shop_id, job_no, check_key, setting_no, who) values ($1, $2, $3, $4, $5)",
        store.shop_id,
        at.0,
        at.1,
        setting.setting_no,
        who
    )
    .execute(&mut **tx)
    .await?;
    sqlx::query!(
        "update setting set state = 'not_fitted'
         where shop_id = $1 and job_no = $2 and check_key = $3 and setting_no = $4",
        store.shop_id,
        at.0,
        at.1,
        setting.setting_no
    )
    .execute(&mut **tx)
    .await?;
    // What moved with it: out of the drawer what was fitted, into it what came out.
    let moved = sqlx::query!(
        r#"select thickness_nm, grade, sum(on_hand - on_hand_was)::integer as "by!" from stock_move
           where shop_id = $1 and job_no = $2 and check_key = $3 and family_key = $4
             and why in ('fitted', 'put_back') and at >= $5
           group by thickness_nm, grade order by thickness_nm, grade"#,
        store.shop_id,
        at.0,
        at.1,
        setting.family_key,
        setting.ended_at
    )
    .fetch_all(&mut **tx)
    .await?;
    for row in moved {
        let line = Line {
            family: &setting.family_key,
            thickness_nm: row.thickness_nm,
            grade: word(&row.grade, || {
                format!("a line of the drawer “{}”", setting.family_key)
            })?,
        };
        let noted = Noted {
            check: Some(at),
            ..Noted::of(line, (0, 0), StockChange::Undone, who)
        };
        super::drawer::change(store, tx, noted, (-row.by, 0)).await?;
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
) -> DbResult<()> {
    let signing_no = i32::try_from(of.signings.len()).unwrap_or(i32::MAX - 1) + 1;
    sqlx::query!(
        "insert into signing (shop_id, job_no, check_key, signing_no, act, call, achieved_nm, u_nm,
                              dof, chance, readings, reason, who, way, achieved_n_m, gauge_key, squares,
                              scatter_dof)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18)",
        store.shop_id,
        of.job_no,
        of.check_key,
        signing_no,
        <&str>::from(signing.act),
        signing.call.map(<&str>::from),
        signing.achieved_nm,
        u.map(|u| u.0),
        u.and_then(|u| u.1),
        signing.chance,
        readings,
        signing.reason,
        signing.who,
        signing.way.map(<&str>::from),
        signing.achieved_n_m,
        signing.gauge_key,
        signing.squares,
        signing.scatter_dof
    )
    .execute(&mut **tx)
    .await?;
    // A signature adds its scatter to what the shop knows of the gauge; reopening takes it off.
    let (from, sign) = if signing.act == SignAct::Signed {
        (Some(signing), 1.0)
    } else {
        (of.signings.last(), -1.0)
    };
    if let Some(Signing {
        gauge_key: Some(key),
        way: Some(way),
        squares: Some(squares),
        scatter_dof: Some(dof),
        ..
    }) = from
    {
        pool(store, tx, key, *way, sign * squares, sign * dof).await?;
    }
    Ok(())
}

/// Where a check stands after a write.
#[derive(Clone, Debug)]
pub struct CheckStatus {
    pub phase: Phase,
    pub round: i32,
    /// What is fitted, where that is known.
    pub fitted_nm: Option<i64>,
    /// The call on the readings of this round, where there is one.
    pub call: Option<Call>,
    /// The clearance to show in nanometres, where there is one.
    pub shown_nm: Option<f64>,
    /// The torque to show in newton metres, where it is one.
    pub shown_n_m: Option<f64>,
}

impl CheckStatus {
    /// Where a check stands whose record means that.
    #[must_use]
    pub fn of(record: &Record, found: &Assessment) -> Self {
        Self {
            phase: found.phase,
            round: record.head.round,
            fitted_nm: record.head.fitted_nm,
            call: found.call,
            shown_nm: found.estimate.as_ref().map(|e| e.clearance_nm),
            shown_n_m: found.torque.as_ref().map(|t| t.torque_n_m),
        }
    }
}

/// When a check's version becomes one more.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Bump {
    /// In any case: its record has changed.
    Always,
    /// Where it stands otherwise than before: who looks at one that does not has nothing to look at again.
    WhereChanged,
}

/// Stores where a check stands, and makes its version one more.
pub async fn settle(
    store: &Store,
    tx: &mut Tx,
    of: &Record,
    at: &CheckStatus,
    bump: Bump,
) -> DbResult<()> {
    sqlx::query!(
        "update job_check set phase = $4, round = $5, fitted_nm = $6, call = $7, shown_nm = $8,
                shown_n_m = $9, version = version + 1
         where shop_id = $1 and job_no = $2 and check_key = $3
           and ($10 or (phase, call, shown_nm, shown_n_m) is distinct from ($4::text, $7::text, $8::float8, $9::float8))",
        store.shop_id,
        of.job_no,
        of.check_key,
        <&str>::from(at.phase),
        at.round,
        at.fitted_nm,
        at.call.map(<&str>::from),
        at.shown_nm,
        at.shown_n_m,
        bump == Bump::Always
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}
