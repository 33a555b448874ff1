//! The open checks of a box or of the whole bench, and what to buy for them.

use std::sync::Arc;
use std::time::{Duration, Instant};

use anvil_arithmetic::refusal::{Nature, Refusal};
use anvil_rules::job::check::close_once::{ClosingChance, close_once};
use anvil_rules::job::check::coupling::{OpenChecks, Pin, taken_at_once};
use anvil_rules::job::check::loaded::{LoadedCheck, worth_a_look};
use anvil_rules::job::check::purchase_needs::{self, PurchaseView};
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::split::SplitView;
use anvil_rules::job::check::workflow::Phase;
use anvil_rules::sheet::Sheet;

use super::searches::Searches;
use crate::db::check::{self, Asked};
use crate::db::error::{DbError, DbResult, Unread, sort_out};
use crate::db::{Store, drawer, job, sheet};
use crate::http::problem::{ApiResult, Problem};
use crate::processor::heavily;

/// The longest search behind what to buy.
const LONGEST_SEARCH: Duration = Duration::from_millis(300);

/// Gathers the open checks of a job, or of every open job as far as they are taken at once, for which pieces could be
/// chosen; and what cannot be read.
///
/// # Errors
/// Where a check cannot be read, or `pins` are not of whole groups.
pub async fn gather(
    store: &Store,
    job_no: Option<i32>,
    pins: &[Pin],
) -> ApiResult<(OpenChecks, Vec<Unread>)> {
    let (checks, unread, beyond) = loaded(store, job_no, worth_a_look).await?;
    let open = heavily(|| OpenChecks::of(checks, pins))?;
    Ok((OpenChecks { beyond, ..open }, unread))
}

/// The checks of an open job that are a length, whatever they wait for.
///
/// # Errors
/// Where a check of it cannot be read.
pub async fn of_lengths(store: &Store, job_no: i32) -> ApiResult<Vec<LoadedCheck>> {
    let is_length = |sheet: &Sheet, key: &str, phase: Phase| {
        let check = sheet.check(key).filter(|_| phase != Phase::Elsewhere);
        check.is_some_and(|c| c.proof.is_none())
    };
    Ok(loaded(store, Some(job_no), is_length).await?.0)
}

/// The chance of each closing of a job that all set in it lands.
///
/// # Errors
/// Where there is no such job, or a check of it cannot be read.
pub async fn closings(store: &Store, job_no: i32) -> ApiResult<Vec<ClosingChance>> {
    let job = job::job(store, &store.pool, job_no).await?;
    let sheet = sheet::built(store, &store.pool, job.on_sheet()).await?;
    let in_a_closing = |sheet: &Sheet, key: &str, phase: Phase| {
        let check = sheet.check(key);
        check.is_some_and(|c| !c.closing.is_empty())
            && !matches!(phase, Phase::Signed | Phase::Elsewhere)
    };
    let (checks, ..) = loaded(store, Some(job_no), in_a_closing).await?;
    heavily(|| Ok(close_once(&sheet, &checks)?))
}

/// What could be fitted at the two ends of the shaft that a check is one of; none where no mesh hangs on it.
///
/// # Errors
/// Where there is no such job or check, or it cannot be read.
pub async fn split(
    store: &Store,
    job_no: i32,
    check_key: &str,
    searches: &Searches,
) -> ApiResult<Option<SplitView>> {
    let (open, _) = gather(store, Some(job_no), &[]).await?;
    let _turn = searches.turn(|_| {}).await;
    let until = Instant::now() + LONGEST_SEARCH;
    heavily(|| Ok(open.split(check_key, |_| Instant::now() < until)?))
}

/// The open checks of a job, or of every open job, that are `wanted`, each with what the core makes of it; what of the
/// bench's cannot be read; and how many more there are than are taken at once. Of one job everything can be read, or
/// nothing.
async fn loaded(
    store: &Store,
    job_no: Option<i32>,
    wanted_one: impl Fn(&Sheet, &str, Phase) -> bool,
) -> ApiResult<(Vec<LoadedCheck>, Vec<Unread>, usize)> {
    let mut tx = store.moment().await?;
    let (mut wanted, mut unread) = (Vec::new(), Vec::new());
    for row in job::open_checks(store, &mut *tx, job_no, &mut unread).await? {
        let sheet = sheet::built(
            store,
            &mut *tx,
            (&row.sheet_key, row.revision, &row.variant),
        )
        .await?;
        if wanted_one(&sheet, &row.check_key, row.phase) {
            wanted.push((row, sheet));
        }
    }
    let jobs: Vec<i32> = wanted.iter().map(|(row, _)| row.job_no).collect();
    let taken = taken_at_once(&jobs);
    wanted.truncate(taken);
    let mut asked = Vec::with_capacity(wanted.len());
    for (row, sheet) in &wanted {
        asked.push(Asked {
            job_no: row.job_no,
            check_key: &row.check_key,
            families: Spec::of(sheet, &row.check_key)?.families(),
        });
    }
    let records = match check::records(store, &mut tx, &asked).await {
        Ok(records) => records.into_iter().map(Some).collect(),
        Err(error) if job_no.is_none() && error.is_unreadable() => {
            let mut records = Vec::with_capacity(asked.len());
            for one in &asked {
                let read = check::records(store, &mut tx, std::slice::from_ref(one)).await;
                let read = sort_out(one.job_no, read, &mut unread)?;
                records.push(read.and_then(|mut one| one.pop()));
            }
            records
        }
        Err(error) => return Err(error.into()),
    };
    drop(tx);
    let sheets = wanted.iter().map(|(_, sheet)| sheet);
    let checks = records.into_iter().zip(sheets);
    let checks = checks.filter_map(|(record, sheet)| Some((record?, sheet)));
    let each = checks.map(|(record, sheet)| {
        let number = record.job_no;
        let loaded = Spec::of(sheet, &record.check_key)
            .map(|spec| record.heeding(&spec))
            .and_then(|record| LoadedCheck::of(record, Arc::clone(sheet)));
        (
            number,
            loaded.map_err(|refusal| contradicts(number, refusal)),
        )
    });
    let each: Vec<(i32, DbResult<LoadedCheck>)> = heavily(|| each.collect());
    let mut loaded = Vec::with_capacity(each.len());
    for (number, check) in each {
        match check {
            Err(error) if job_no.is_some() => return Err(error.into()),
            check => loaded.extend(sort_out(number, check, &mut unread)?),
        }
    }
    Ok((loaded, unread, jobs.len() - taken))
}

/// A record that contradicts itself is one that cannot be read.
fn contradicts(job_no: i32, refusal: Refusal) -> DbError {
    match refusal.nature {
        Nature::Fault => DbError::unreadable(format!("job {job_no}"), refusal.message),
        _ => refusal.into(),
    }
}

/// Works out what to buy for the open checks of a job, or of every open job; for those not measured
/// yet too where `unmeasured`, by what boxes before them wanted.
///
/// # Errors
/// Where a check cannot be read.
pub async fn purchase(
    store: &Store,
    searches: &Searches,
    job_no: Option<i32>,
    unmeasured: bool,
) -> ApiResult<(PurchaseView, Vec<Unread>)> {
    let (open, unread) = gather(store, job_no, &[]).await?;
    let turn = searches.turn(|_| ()).await;
    // Dropped with this future, where nobody waits for the answer any more.
    let waited_for = Arc::new(());
    let waits = Arc::downgrade(&waited_for);
    let (open, together) = tokio::task::spawn_blocking(move || {
        let until = Instant::now() + LONGEST_SEARCH;
        let together = open.share(|_| Instant::now() < until && waits.strong_count() > 0);
        drop(turn);
        (open, together)
    })
    .await
    .map_err(Problem::server)?;
    let awaited = drawer::awaited(store).await?;
    let view = purchase_needs::needs(&open, &together?, unmeasured, (&awaited, job_no))?;
    Ok((view, unread))
}
