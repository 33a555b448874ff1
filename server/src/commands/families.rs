//! The writes on families of pieces.

use anvil_rules::job::check::workflow::Phase;
use anvil_rules::job::standing::Standing;

use super::Write;
use super::locked_check::settle_again;
use crate::db::check::Bump;
use crate::db::{Store, family, job, locks, sheet};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
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
    let request = (family_key, sheet_key, revision);
    Write::once(
        store,
        key,
        who,
        ("figures", &request),
        |mut tx| async move {
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
            let mut jobs: Vec<i32> = checks.iter().map(|(row, _)| row.job_no).collect();
            jobs.dedup();
            let families = [family_key.to_owned()];
            locks::hold(store, &mut tx, &jobs, &families).await?;
            family::follow(store, &mut tx, stated, (sheet_key, revision), who).await?;
            let mut concerned = Vec::new();
            for (row, _) in &checks {
                // A job handed over meanwhile is as it was signed.
                let job = job::job(store, &mut *tx, row.job_no).await?;
                if job.row.standing != Standing::HandedOver && row.phase != Phase::Elsewhere {
                    concerned.push((row.job_no, row.check_key.clone()));
                }
            }
            settle_again(store, &mut tx, &concerned, Bump::Always).await?;
            Ok((tx, ()))
        },
    )
    .await
}
