//! Choosing for many checks in one go.

use std::collections::BTreeSet;

use anvil_arithmetic::choose::SizeCount;
use anvil_rules::job::check::coupling::{MOST_AT_ONCE, OpenChecks, Pin};
use anvil_rules::job::check::loaded::LoadedCheck;
use anvil_rules::job::check::record::{Setting, SettingState};
use anvil_rules::job::check::rules::{self, stock_taken};

use super::Write;
use super::locked_check::{drawers_of, settle_again, settle_waiting};
use crate::db::check::{self, Bump};
use crate::db::choice_act::{self, Changed};
use crate::db::locks::Waiting;
use crate::db::{Store, Tx, locks};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::CheckRef;

/// What is to be chosen for one check, and how it was seen.
struct Change {
    pin: Pin,
    seen: Seen,
}

/// How a check was seen that is chosen for.
enum Seen {
    /// At this version.
    Version(i32),
    /// With these pieces chosen.
    Pieces(Vec<SizeCount>),
}

/// The act by which is chosen, and the one that it undoes.
struct Act<'a> {
    key: &'a str,
    undoes: Option<&'a str>,
    /// The job on whose screen it was pressed: that need not be told.
    from_job: Option<i32>,
    who: &'a str,
}

/// Chooses pieces for many checks in one go: all of them, or none where one has changed since it was seen or a piece has
/// gone. Where no pieces are named for a check, what is chosen for it is let go. Other jobs than `from_job` whose pieces
/// that takes are told.
///
/// # Errors
/// Where a check is named twice, has changed, or is not ready; or a piece has gone.
pub async fn choose(
    store: &Store,
    key: &IdempotencyKey,
    seen: &[(Pin, i32)],
    (from_job, who): (Option<i32>, &str),
) -> ApiResult<()> {
    let mut seen: Vec<&(Pin, i32)> = seen.iter().collect();
    let name = |s: &(Pin, i32)| (s.0.job_no, s.0.check_key.clone());
    seen.sort_by_key(|s| name(s));
    let twice = seen.windows(2).any(|w| name(w[0]) == name(w[1]));
    if seen.is_empty() || seen.len() > MOST_AT_ONCE || twice {
        return Err(Problem::field(
            "choices",
            format!("Name from 1 to {MOST_AT_ONCE} checks, each once, with their pieces."),
        ));
    }
    let change = |(pin, version): &(Pin, i32)| Change {
        pin: pin.clone(),
        seen: Seen::Version(*version),
    };
    let changes: Vec<Change> = seen.iter().map(|s| change(s)).collect();
    let (changes, act) = (
        &changes,
        &Act {
            key: &key.0,
            undoes: None,
            from_job,
            who,
        },
    );
    Write::once(store, key, who, ("together", &seen), |tx| async move {
        Ok((apply(store, tx, act, changes).await?, ()))
    })
    .await
}

/// Puts back as it was what an act of choosing for several checks has changed.
///
/// # Errors
/// Where there is no such act, it was undone before, or something was done since with what it chose.
pub async fn undo(store: &Store, key: &IdempotencyKey, act_key: &str, who: &str) -> ApiResult<()> {
    let act = &Act {
        key: &key.0,
        undoes: Some(act_key),
        from_job: None,
        who,
    };
    Write::once(
        store,
        key,
        who,
        ("undo_together", &act_key),
        |mut tx| async move {
            let (lines, undone) = choice_act::lines(store, &mut tx, act_key).await?;
            if lines.is_empty() {
                return Err(Problem::missing("There is no such act of choosing."));
            }
            if undone {
                return Err(Problem::conflict("undone", "This was undone already."));
            }
            let changes: Vec<Change> = lines
                .into_iter()
                .map(|line| Change {
                    pin: Pin {
                        job_no: line.job_no,
                        check_key: line.check_key,
                        pieces: line.was,
                    },
                    seen: Seen::Pieces(line.now),
                })
                .collect();
            let mut tx = apply(store, tx, act, &changes).await?;
            choice_act::see(store, &mut tx, act_key, None, who).await?;
            Ok((tx, ()))
        },
    )
    .await
}

/// Says that somebody has seen what an act changed of a check.
///
/// # Errors
/// Where the database does not answer.
pub async fn see(
    store: &Store,
    key: &IdempotencyKey,
    (act_key, job_no, check_key): (&str, i32, &str),
    who: &str,
) -> ApiResult<()> {
    let request = (act_key, job_no, check_key);
    Write::once(
        store,
        key,
        who,
        ("see_choice", &request),
        |mut tx| async move {
            choice_act::see(store, &mut tx, act_key, Some((job_no, check_key)), who).await?;
            Ok((tx, ()))
        },
    )
    .await
}

/// The pieces of a choice, as they are named.
fn named(setting: Option<&Setting>) -> Vec<SizeCount> {
    let mut pieces = setting.map_or_else(Vec::new, Setting::counts);
    sort(&mut pieces);
    pieces
}

fn sort(pieces: &mut [SizeCount]) {
    pieces.sort_by_key(|p| (p.thickness_nm, <&str>::from(p.grade)));
}

/// The same pieces, in whatever order.
fn is_same(a: &[SizeCount], b: &[SizeCount]) -> bool {
    let (mut a, mut b) = (a.to_vec(), b.to_vec());
    sort(&mut a);
    sort(&mut b);
    a == b
}

async fn apply(store: &Store, mut tx: Tx, act: &Act<'_>, changes: &[Change]) -> ApiResult<Tx> {
    let who = act.who;
    let of = |pin: &'_ Pin| CheckRef {
        store,
        job_no: pin.job_no,
        key: "",
        who,
    };
    let mut families = BTreeSet::new();
    for Change { pin, .. } in changes {
        let of = CheckRef {
            key: &pin.check_key,
            ..of(pin)
        };
        let head = check::head(store, &mut *tx, of.job_no, of.key).await?;
        families.extend(drawers_of(&of, &mut tx, &head).await?);
    }
    let families: Vec<String> = families.into_iter().collect();
    let jobs: Vec<i32> = changes.iter().map(|c| c.pin.job_no).collect();
    let waiting = locks::hold(store, &mut tx, &jobs, &families).await?;
    let mut checks = Vec::new();
    for Change { pin, seen } in changes {
        let of = CheckRef {
            key: &pin.check_key,
            ..of(pin)
        };
        let head = check::head(store, &mut *tx, pin.job_no, &pin.check_key).await?;
        let version = head.version;
        let loaded = of.load_held(&mut tx, head).await?;
        rules::not_put_away(&loaded.record)?;
        let same = match seen {
            Seen::Version(seen) => *seen == version,
            Seen::Pieces(pieces) => is_same(pieces, &named(loaded.record.open_setting())),
        };
        if !same {
            return Err(Problem::changed(
                "changed",
                format!(
                    "A check of job {} has changed since this was worked out, so nothing is chosen yet. Look at what it says now.",
                    pin.job_no
                ),
            ));
        }
        checks.push(loaded);
    }
    // What was chosen before goes back first, so that two checks can change places.
    for LoadedCheck { record, .. } in &checks {
        if let Some(setting) = record.open_setting() {
            check::end_setting(store, &mut tx, record, setting, SettingState::LetGo, who).await?;
        }
    }
    note(store, &mut tx, act, &checks, changes).await?;
    let mut own: Vec<Waiting> = changes
        .iter()
        .map(|c| (c.pin.job_no, c.pin.check_key.clone()))
        .collect();
    own.sort_unstable();
    let mut fresh = Vec::new();
    let mut pins = Vec::new();
    for (before, Change { pin, .. }) in checks.into_iter().zip(changes) {
        if pin.pieces.is_empty() {
            continue;
        }
        let of = CheckRef {
            key: &pin.check_key,
            ..of(pin)
        };
        fresh.push(of.load_held(&mut tx, before.record.head).await?);
        pins.push(pin.clone());
    }
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
    settle_again(store, &mut tx, &own, Bump::Always).await?;
    let others: Vec<Waiting> = waiting.into_iter().filter(|w| !own.contains(w)).collect();
    settle_waiting(store, &mut tx, &others).await?;
    Ok(tx)
}

/// Notes what the act changes of each check, as it was before.
async fn note(
    store: &Store,
    tx: &mut Tx,
    act: &Act<'_>,
    before: &[LoadedCheck],
    changes: &[Change],
) -> ApiResult<()> {
    for (check, Change { pin, .. }) in before.iter().zip(changes) {
        let was = named(check.record.open_setting());
        let takes_nothing = was.is_empty() || is_same(&was, &pin.pieces);
        let line = Changed {
            job_no: pin.job_no,
            check_key: &pin.check_key,
            was: &was,
            now: &pin.pieces,
            is_seen: takes_nothing || act.undoes.is_some() || act.from_job == Some(pin.job_no),
        };
        choice_act::note(store, tx, (act.key, act.undoes), &line, act.who).await?;
    }
    Ok(())
}
