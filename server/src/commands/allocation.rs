//! Choosing for many checks in one go.

use std::collections::BTreeSet;

use anvil_core::job_check::coupling::{OpenChecks, Pin};
use anvil_core::job_check::loaded::LoadedCheck;
use anvil_core::job_check::record::SettingState;
use anvil_core::job_check::rules::stock_taken;

use super::Write;
use super::locked_check::{drawers_of, settle_again, settle_waiting};
use crate::db::check::{self, Bump};
use crate::db::locks::Waiting;
use crate::db::{Store, locks};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::CheckRef;

/// The most checks that are chosen for in one go.
const MOST_TOGETHER: usize = 1_000;

/// Chooses pieces for many checks in one go: all of them, or none where one has changed since it
/// was seen or a piece has gone.
///
/// # Errors
/// Where a check is named twice, has changed, or is not ready; or a piece has gone.
pub async fn choose(
    store: &Store,
    key: &IdempotencyKey,
    seen: &[(Pin, i32)],
    who: &str,
) -> ApiResult<()> {
    let mut seen: Vec<&(Pin, i32)> = seen.iter().collect();
    let name = |s: &(Pin, i32)| (s.0.job_no, s.0.check_key.clone());
    seen.sort_by_key(|s| name(s));
    let twice = seen.windows(2).any(|w| name(w[0]) == name(w[1]));
    if seen.is_empty() || seen.len() > MOST_TOGETHER || twice {
        return Err(Problem::field(
            "choices",
            format!("Name from 1 to {MOST_TOGETHER} checks, each once, with their pieces."),
        ));
    }
    let seen = &seen;
    Write::once(store, key, who, ("together", seen), |mut tx| async move {
        let of = |pin: &'_ Pin| CheckRef { store, job_no: pin.job_no, key: "", who };
        let mut families = BTreeSet::new();
        for (pin, _) in seen {
            let of = CheckRef { key: &pin.check_key, ..of(pin) };
            let head = check::head(store, &mut *tx, of.job_no, of.key).await?;
            families.extend(drawers_of(&of, &mut tx, &head).await?);
        }
        let families: Vec<String> = families.into_iter().collect();
        let jobs: Vec<i32> = seen.iter().map(|(pin, _)| pin.job_no).collect();
        let waiting = locks::hold(store, &mut tx, &jobs, &families).await?;
        let mut checks = Vec::new();
        for (pin, version) in seen {
            let head = check::head(store, &mut *tx, pin.job_no, &pin.check_key).await?;
            if head.version != *version {
                return Err(Problem::changed(
                    "changed",
                    format!(
                        "A check of job {} has changed since this was worked out, so nothing is chosen yet. Share out again, and look at what it says now.",
                        pin.job_no
                    ),
                ));
            }
            let of = CheckRef { key: &pin.check_key, ..of(pin) };
            checks.push(of.load_held(&mut tx, head).await?);
        }
        // What was chosen before goes back first, so that two checks can change places.
        for LoadedCheck { record, .. } in &checks {
            if let Some(setting) = record.open_setting() {
                check::end_setting(store, &mut tx, record, setting, SettingState::LetGo, who)
                    .await?;
            }
        }
        let mut fresh = Vec::new();
        for (before, (pin, _)) in checks.into_iter().zip(seen) {
            let of = CheckRef { key: &pin.check_key, ..of(pin) };
            fresh.push(of.load_held(&mut tx, before.record.head).await?);
        }
        let pins: Vec<Pin> = seen.iter().map(|s| s.0.clone()).collect();
        let open = OpenChecks::of(fresh, &pins)?;
        if let Some(out) = open.left_out.first() {
            return Err(Problem::conflict(
                "not-ready",
                format!(
                    "Nothing is chosen: {} of job {} {}.",
                    out.name, out.job_no, out.why
                ),
            ));
        }
        for (number, setting) in open.settings(who)? {
            let record = &open.checks[number].record;
            if !check::choose(store, &mut tx, record, &setting).await? {
                return Err(stock_taken().into());
            }
        }
        let mut own: Vec<Waiting> = open.checks.into_iter().map(|c| (c.record.job_no, c.record.check_key)).collect();
        own.sort_unstable();
        settle_again(store, &mut tx, &own, Bump::Always).await?;
        let others: Vec<Waiting> = waiting.into_iter().filter(|w| !own.contains(w)).collect();
        settle_waiting(store, &mut tx, &others).await?;
        Ok((tx, ()))
    })
    .await
}
