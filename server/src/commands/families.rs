//! The writes on families of pieces.

use anvil_core::job_check::spec::Spec;
use anvil_core::job_check::workflow::Phase;

use super::Write;
use super::locked_check::settle_job;
use crate::db::check::{self, CheckStatus};
use crate::db::{Store, family, job, sheet};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::CheckRef;
use crate::queries::families::drawing_from;

/// Makes what a sheet says of a family the family's own figures; what open checks that draw from it wait for is worked
/// out again.
///
/// # Errors
/// Where there is no such drawer, the sheet does not name it, or the sheet has changed since `revision`.
pub async fn follow(
    store: &Store,
    key: &IdempotencyKey,
    family_key: &str,
    (sheet_key, revision): (&str, i32),
    who: &str,
) -> ApiResult<()> {
    let (newest, sheet, _) = sheet::newest(store, sheet_key).await?;
    let stated = sheet.family(family_key).ok_or_else(|| {
        Problem::missing(format!(
            "The sheet “{sheet_key}” names no pieces “{family_key}”."
        ))
    })?;
    if newest != revision {
        return Err(Problem::conflict(
            "sheet-changed",
            format!("The sheet is at revision {newest} now: look at what that says first."),
        ));
    }
    let checks = drawing_from(store, family_key).await?;
    let request = (family_key, sheet_key, revision);
    Write::once(
        store,
        key,
        who,
        ("figures", &request),
        |mut tx| async move {
            let mut locked = Vec::with_capacity(checks.len());
            for (row, sheet) in &checks {
                // A job handed over meanwhile is as it was signed.
                job::hold(store, &mut tx, row.job_no).await?;
                let job = job::job(store, &mut *tx, row.job_no).await?;
                if job.row.finished_at.is_some() || row.phase == Phase::Elsewhere {
                    continue;
                }
                let head = check::hold(store, &mut tx, row.job_no, &row.check_key).await?;
                locked.push((row, sheet, head));
            }
            family::follow(store, &mut tx, stated, (sheet_key, revision), who).await?;
            for (row, sheet, head) in locked {
                let of = CheckRef {
                    store,
                    job_no: row.job_no,
                    key: &row.check_key,
                    who,
                };
                let spec = Spec::of(sheet, of.key)?;
                let record = of.record_held(&mut tx, head, &spec).await?;
                let found = record.assess(&spec.on_job(&record))?;
                let status = CheckStatus::of(&record, &found);
                check::settle(store, &mut tx, &record, &status).await?;
                settle_job(store, &mut tx, row.job_no, sheet).await?;
            }
            Ok((tx, ()))
        },
    )
    .await
}
