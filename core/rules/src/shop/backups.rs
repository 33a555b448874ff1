//! Copies of the whole shop in one file: when the next is due, when the last is too old, which are kept.

use chrono::{DateTime, TimeDelta, Utc};
use serde::Serialize;

/// A night's backup may be missed once, where the machine was off, and not twice.
const TOO_OLD: TimeDelta = TimeDelta::hours(48);
/// The next is due so long after the last: it is made at night where the machine is on, else when it is switched on.
const DUE: TimeDelta = TimeDelta::hours(23);
/// After one that failed it is tried again so much later.
const AGAIN: TimeDelta = TimeDelta::hours(1);
/// What was made before this hour of the day is the night's.
const NIGHT_ENDS: u32 = 6;

/// How the shop's backups stand.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Backups {
    /// When the last was made; none where none ever was.
    pub last: Option<DateTime<Utc>>,
    /// Where that lies, as a path on the machine that made it.
    pub file: Option<String>,
    /// Why the last try came to nothing, where one has since the last backup.
    pub failed: Option<String>,
    /// They are made every night, by themselves.
    pub nightly: bool,
    /// What has been done since would be lost with the disk.
    pub too_old: bool,
}

/// Whether the last backup is too old at `now`, in a shop with records since `since`.
///
/// ```
/// use anvil_rules::shop::backups::too_old;
/// let at = |text: &str| text.parse().unwrap();
/// let since = Some(at("2026-03-02T08:00:00Z"));
/// assert!(!too_old(since, None, at("2026-03-03T17:00:00Z")));
/// assert!(too_old(since, None, at("2026-03-04T09:00:00Z")));
/// assert!(!too_old(since, Some(at("2026-03-03T03:00:00Z")), at("2026-03-04T17:00:00Z")));
/// assert!(!too_old(None, None, at("2026-03-04T09:00:00Z")));
/// ```
#[must_use]
pub fn too_old(
    since: Option<DateTime<Utc>>,
    last: Option<DateTime<Utc>>,
    now: DateTime<Utc>,
) -> bool {
    // Where nothing was ever written down there is nothing to lose.
    since.is_some_and(|since| now - last.unwrap_or(since) > TOO_OLD)
}

/// Whether the next of the nightly backups is due at `now`, `hour` of the day at the shop; the last is of `last`, and the
/// last try that came to nothing of `failed`.
#[must_use]
pub fn due(
    last: Option<DateTime<Utc>>,
    failed: Option<DateTime<Utc>>,
    (now, hour): (DateTime<Utc>, u32),
) -> bool {
    if failed.is_some_and(|failed| now - failed < AGAIN) {
        return false;
    }
    last.is_none_or(|last| {
        let since = now - last;
        // One that was made by day gives way to the night.
        since >= TimeDelta::hours(25) || (since >= DUE && hour < NIGHT_ENDS)
    })
}

const BEFORE: &str = "dry-anvil-";
const AFTER: &str = ".zip";

/// The name of the nightly backup's file.
///
/// ```
/// use anvil_rules::shop::backups::name_of;
/// let at = "2026-03-04T02:05:09Z".parse().unwrap();
/// assert_eq!(name_of(at), "dry-anvil-2026-03-04-020509.zip");
/// ```
#[must_use]
pub fn name_of(at: DateTime<Utc>) -> String {
    format!("{BEFORE}{}{AFTER}", at.format("%Y-%m-%d-%H%M%S"))
}

/// Which of the files in the folder of backups go, so that the newest `keep` nightly ones stay; nobody else's file does.
///
/// ```
/// use anvil_rules::shop::backups::surplus;
/// let names = ["dry-anvil-2026-03-04-020509.zip", "notes.txt", "dry-anvil-2026-03-02-020501.zip"];
/// assert_eq!(surplus(names, 1), ["dry-anvil-2026-03-02-020501.zip"]);
/// ```
#[must_use]
pub fn surplus<'n>(names: impl IntoIterator<Item = &'n str>, keep: usize) -> Vec<&'n str> {
    let ours = |name: &&str| {
        let time = name
            .strip_prefix(BEFORE)
            .and_then(|n| n.strip_suffix(AFTER));
        time.is_some_and(|t| chrono::NaiveDateTime::parse_from_str(t, "%Y-%m-%d-%H%M%S").is_ok())
    };
    let mut names: Vec<&str> = names.into_iter().filter(ours).collect();
    // The time stands in the name, the largest part first.
    names.sort_unstable_by(|a, b| b.cmp(a));
    names.split_off(keep.min(names.len()))
}
