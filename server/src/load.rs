//! A shop's files into an empty database: `shop.json`, `sheets/*.json`, `drawers.csv`, `jobs.json`.
//! Jobs are worked through by the same writes as the screens use; `docs/FORMATS.md` describes them.

use std::path::Path;
use std::time::Duration;

use anvil_arithmetic::choose::SizeCount;
use anvil_arithmetic::measure::dial::TravelInput;
use anvil_arithmetic::measure::{Method, ReadingInput};
use anvil_arithmetic::stock::csv;
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{self, Sign};
use anvil_rules::sheet;
use chrono::{TimeDelta, Utc};
use serde::Deserialize;

use crate::commands::acts::{self, ActIn};
use crate::commands::drawers::take_counts;
use crate::commands::pictures::{self, PictureIn};
use crate::db::job::Card;
use crate::db::shop::{Person, Stands};
use crate::db::{self, Store, Tx, locks};
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::{ApiResult, Problem};
use crate::queries::CheckRef;
use crate::views::acted::ActedOn;
use anvil_rules::identify::IdentityAnswer;
use anvil_rules::job::act::Act;
use anvil_rules::job::build::BuildAct;
use anvil_rules::job::check::act::{CheckAct, NewLayout, NewPieces, NewReading};
use anvil_rules::job::check::record::ReadingMark;
use anvil_rules::job::check::shims::ShimsInput;
use anvil_rules::job::check::target::TargetOverrideInput;
use anvil_rules::job::donors::DonorAct;
use anvil_rules::job::intake::{Intake, WaitsFor};
use anvil_rules::job::parts::{Finding, PartAct};
use anvil_rules::shop::gauge_register::GaugeCard;
use anvil_rules::shop::people;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct ShopFile {
    name: String,
    place: String,
    unit: Unit,
    floor: f64,
    people: Vec<Person>,
    gauges: Vec<GaugeCard>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct JobFile {
    sheet: String,
    title: String,
    customer: String,
    #[serde(default)]
    complaint: String,
    /// What else is on its card, but for the promised day.
    #[serde(default)]
    intake: Intake,
    /// For how many days after it was opened it is promised.
    #[serde(default)]
    promised_after_days: Option<i64>,
    /// The build that the box is, where that is known.
    #[serde(default)]
    variant: String,
    /// What was seen of it, to tell that.
    #[serde(default)]
    seen: Vec<IdentityAnswer>,
    by: String,
    /// How many days ago the job was opened.
    opened_days_ago: f64,
    /// How many days the work so far has taken.
    took_days: f64,
    #[serde(default)]
    handed_over: bool,
    /// It is not overhauled: its parts go into other boxes.
    #[serde(default)]
    for_parts: bool,
    /// Where on the shelf what is sound of it lies; the box itself is gone then.
    #[serde(default)]
    shelf: Option<String>,
    /// What was found of its parts, before that work.
    #[serde(default)]
    found: Vec<Finding>,
    /// What was said of getting parts, after that.
    #[serde(default)]
    got: Vec<PartAct>,
    /// Pictures of it, before that work.
    #[serde(default)]
    pictures: Vec<PictureFile>,
    work: Vec<CheckFile>,
    /// What was done of its build, once that work was done.
    #[serde(default)]
    build: Vec<BuildAct>,
}

/// A picture in the folder `pictures` of the shop's files.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct PictureFile {
    file: String,
    #[serde(default)]
    part: String,
    #[serde(default)]
    step: String,
    #[serde(default)]
    said: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct CheckFile {
    check: String,
    steps: Vec<StepFile>,
}

#[derive(Deserialize)]
#[serde(rename_all = "snake_case")]
enum StepFile {
    /// What is fitted, measured.
    Fitted(String),
    /// Travels of a dial, as typed with their unit.
    Read(Vec<String>),
    /// Readings of any way: the way, and each as it would be entered.
    Take(Method, Vec<ReadingInput>),
    /// Which way counts.
    Way(Method),
    /// All that was to be seen to before reading.
    Ready(bool),
    /// A clutch pack laid out.
    Lay(NewLayout),
    /// A reading struck out: its number and why.
    Strike(i32, String),
    /// A reading that looks like a slip said to be right.
    Keep(i32),
    /// Pieces chosen: size and count.
    Choose(Vec<(String, u32)>),
    /// Pieces of another family chosen: its key, what comes out together, size and count.
    Instead(String, String, Vec<(String, u32)>),
    /// The shims at the left and at the right end of a shaft, as found or moved so.
    Shims(ShimsFile),
    /// The pieces fitted; those that came out back in the drawer, or not.
    Fit(bool),
    /// Where to aim on this job, and in which window.
    Aim(TargetOverrideInput),
    /// Signed off, with a reason where one is needed.
    Sign(String),
    /// Reopened, with the reason.
    Reopen(String),
}

fn file<T: for<'a> Deserialize<'a>>(dir: &Path, name: &str) -> Result<T, String> {
    serde_json::from_str(&text(&dir.join(name))?).map_err(|e| format!("{name}: {e}"))
}

fn text(path: &Path) -> Result<String, String> {
    std::fs::read_to_string(path).map_err(|e| format!("{} cannot be read: {e}", path.display()))
}

/// Loads the shop in `dir` into an empty database; one that was broken off begins again. `false` where there is a shop
/// already.
///
/// # Errors
/// Where a file cannot be read or is faulty, somebody else is loading, or the database does not answer.
pub async fn shop(store: &Store, dir: &Path) -> Result<bool, String> {
    let shop: ShopFile = file(dir, "shop.json")?;
    let held = locks::loading(store).await.map_err(|e| e.to_string())?;
    let held = held.ok_or("somebody else is loading this shop: wait until they are done")?;
    let done = fill(store, dir, &shop).await;
    held.let_go().await.map_err(|e| e.to_string())?;
    done
}

/// What went wrong, with all faults of a file.
fn say(p: Problem) -> String {
    let faults: Vec<String> = p
        .faults
        .iter()
        .map(|f| format!("\n  {}: {}", f.place, f.message))
        .collect();
    p.title + &faults.concat()
}

async fn fill(store: &Store, dir: &Path, shop: &ShopFile) -> Result<bool, String> {
    let stands = db::shop::stands(store).await.map_err(|e| e.to_string())?;
    if stands == Stands::Whole {
        return Ok(false);
    }
    // Shop, sheets and drawers come in together or not at all.
    let mut tx = store.begin().await.map_err(|e| e.to_string())?;
    if stands == Stands::InPart {
        println!("  A loading was broken off: it begins again.");
        db::shop::clear(&mut tx).await.map_err(|e| e.to_string())?;
    }
    if !found(store, &mut tx, shop).await.map_err(say)? {
        return Ok(false);
    }
    let by = shop
        .people
        .first()
        .map(|p| p.initials.clone())
        .unwrap_or_default();
    let mut sheets: Vec<_> = std::fs::read_dir(dir.join("sheets"))
        .map_err(|e| format!("sheets: {e}"))?
        .filter_map(|entry| Some(entry.ok()?.path()))
        .filter(|path| path.extension().is_some_and(|e| e == "json"))
        .collect();
    sheets.sort();
    for path in sheets {
        let faulty = |p: Problem| format!("{}: {}", path.display(), say(p));
        let sheet = sheet::read(&text(&path)?).map_err(|f| faulty(Problem::of_sheet(f)))?;
        db::sheet::take_in(store, &mut tx, &sheet, None, None)
            .await
            .map_err(|e| faulty(e.into()))?;
    }
    let rows = csv::read(&text(&dir.join("drawers.csv"))?)
        .map_err(|f| format!("drawers.csv: {}", say(Problem::of_csv(f))))?;
    take_counts(store, &mut tx, &rows, &by).await.map_err(say)?;
    tx.commit().await.map_err(|e| e.to_string())?;

    let jobs: Vec<JobFile> = file(dir, "jobs.json")?;
    let count = jobs.len();
    for (number, job) in jobs.iter().enumerate() {
        if number % 10 == 0 {
            println!("  job {} of {count}", number + 1);
        }
        replay(store, dir, job, number)
            .await
            .map_err(|p| format!("jobs.json, job {} ({}): {}", number + 1, job.title, say(p)))?;
    }
    let mut tx = store.begin().await.map_err(|e| e.to_string())?;
    db::shop::is_whole(store, &mut tx)
        .await
        .map_err(|e| e.to_string())?;
    tx.commit().await.map_err(|e| e.to_string())?;
    Ok(true)
}

async fn found(store: &Store, tx: &mut Tx, shop: &ShopFile) -> ApiResult<bool> {
    let unit = people::bench_unit(shop.unit)?;
    if !db::shop::found(store, tx, &shop.name, &shop.place, unit, shop.floor).await? {
        return Ok(false);
    }
    for person in &shop.people {
        db::shop::add_person(store, tx, person).await?;
    }
    for card in &shop.gauges {
        let gauge = card.read().map_err(|p| {
            Problem::field("gauges", format!("gauge “{}”: {}", card.key, p.message))
        })?;
        let who = shop.people.first().map_or("", |p| p.initials.as_str());
        db::gauge::put(store, tx, &gauge, None, who).await?;
    }
    Ok(true)
}

/// Puts what is sound of a box that is gone on the shelf, and the job away.
async fn shelve(store: &Store, job: &JobFile, job_no: i32, number: usize) -> ApiResult<()> {
    let Some(place) = &job.shelf else {
        return Ok(());
    };
    let key = IdempotencyKey(format!("load-{number}-shelf"));
    let did = DonorAct::Shelve {
        parts: Vec::new(),
        place: place.clone(),
    };
    do_it(store, &key, job_no, Act::Donor { did }, &job.by).await?;
    let mut tx = store.begin().await?;
    let why = ("what was sound of it is on the shelf", job.by.as_str());
    db::job::put_away(store, &mut tx, job_no, true, why).await?;
    store.commit(tx).await?;
    Ok(())
}

/// What is on a job's card: days are counted from when it was opened, and it waits since then where nothing is said.
fn intake_of(job: &JobFile) -> Intake {
    let opened = Utc::now() - Duration::from_secs_f64(job.opened_days_ago * 86_400.0);
    let promised = job.promised_after_days;
    Intake {
        promised: promised.map(|days| (opened + TimeDelta::days(days)).date_naive()),
        waits_for: job.intake.waits_for.clone().map(|waits| WaitsFor {
            since: waits.since.or(Some(opened.date_naive())),
            ..waits
        }),
        ..job.intake.clone()
    }
}

/// Does one thing on a job; `seen` is not said where it does not rest on that.
async fn do_it(
    store: &Store,
    key: &IdempotencyKey,
    job_no: i32,
    act: Act,
    who: &str,
) -> ApiResult<()> {
    let new = ActIn {
        act,
        who: who.to_owned(),
    };
    acts::act(store, key, None, job_no, &new).await?;
    Ok(())
}

/// Works a job through, then moves its times to when the file says it was.
async fn replay(store: &Store, dir: &Path, job: &JobFile, number: usize) -> ApiResult<()> {
    let (revision, whole, _) = db::sheet::newest(store, &job.sheet).await?;
    let sheet = whole.as_built(&job.variant);
    let card = Card {
        title: &job.title,
        customer: &job.customer,
        complaint: &job.complaint,
        intake: intake_of(job),
        for_parts: job.for_parts,
    };
    let mut tx = store.begin().await?;
    db::shop::known(store, &mut tx, &job.by).await?;
    let on = (revision, &sheet, job.variant.as_str());
    let job_no = db::job::open(store, &mut tx, on, &card, &job.by).await?;
    for IdentityAnswer { question, given } in &job.seen {
        db::identity::add(store, &mut tx, job_no, (question, Some(given)), &job.by).await?;
    }
    store.commit(tx).await?;
    let mut writes = 0;
    let found = job.found.iter().cloned().map(PartAct::Found);
    for act in found.chain(job.got.iter().cloned()) {
        writes += 1;
        let key = IdempotencyKey(format!("load-{number}-{writes}"));
        do_it(store, &key, job_no, Act::Part { did: act }, &job.by).await?;
    }
    shelve(store, job, job_no, number).await?;
    for taken in &job.pictures {
        writes += 1;
        let key = IdempotencyKey(format!("load-{number}-{writes}"));
        let path = dir.join("pictures").join(&taken.file);
        let bytes = std::fs::read(&path)
            .map_err(|e| Problem::field("pictures", format!("{}: {e}", path.display())))?;
        let new = PictureIn {
            bytes,
            part: &taken.part,
            step: &taken.step,
            said: &taken.said,
        };
        pictures::add(store, &key, job_no, new, &job.by).await?;
    }
    for part in &job.work {
        let on = CheckRef {
            store,
            job_no,
            key: &part.check,
            who: &job.by,
        };
        let of_check = |p: Problem| Problem {
            title: format!("{}: {}", part.check, p.title),
            ..p
        };
        let (version, ticks) = {
            let loaded = on.load().await.map_err(of_check)?;
            let check = sheet.check(&part.check);
            let ready = check.map_or_else(Vec::new, |check| sheet.ready_of(check));
            let ticks: Vec<String> = ready.into_iter().map(|r| r.tick.clone()).collect();
            (loaded.record.head.version, ticks)
        };
        let mut version = version;
        for did in part.steps.iter().map(|step| acts_of(step, &ticks)) {
            for did in did.map_err(of_check)? {
                writes += 1;
                let key = IdempotencyKey(format!("load-{number}-{writes}"));
                version = Box::pin(do_to(&on, &key, version, did))
                    .await
                    .map_err(of_check)?;
            }
        }
    }
    for act in &job.build {
        writes += 1;
        let key = IdempotencyKey(format!("load-{number}-{writes}"));
        let did = act.clone();
        do_it(store, &key, job_no, Act::Build { did }, &job.by).await?;
    }
    let mut tx = store.begin().await?;
    if job.handed_over {
        db::job::mark(store, &mut tx, job_no, true, ("", &job.by)).await?;
    }
    db::job::move_times(store, &mut tx, job_no, job.opened_days_ago, job.took_days).await?;
    let took: Vec<f64> = job
        .build
        .iter()
        .map(|act| minutes_of(&sheet, act))
        .collect();
    db::build::move_times(store, &mut tx, job_no, &took).await?;
    db::part::move_times(store, &mut tx, job_no).await?;
    db::identity::move_times(store, &mut tx, job_no).await?;
    db::picture::move_times(store, &mut tx, job_no).await?;
    store.commit(tx).await?;
    Ok(())
}

/// About how long something done of a build took, in minutes.
fn minutes_of(sheet: &sheet::Sheet, act: &BuildAct) -> f64 {
    let BuildAct::Done(done) = act else {
        return 0.5;
    };
    let step = sheet.build.iter().find(|s| s.key == done.step);
    let waits = step
        .and_then(|s| s.wait.as_ref())
        .map_or(0.0, |w| w.minutes);
    waits + step.and_then(|s| s.minutes).unwrap_or(3.0)
}

/// A reading as a file has it: lengths with their unit, the usual gauge.
const fn reading(way: Method, entry: ReadingInput) -> CheckAct {
    CheckAct::Read(NewReading {
        way,
        entry,
        unit: Unit::Mm,
        gauge_key: None,
    })
}

/// Shims at the two ends of a shaft.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct ShimsFile {
    left: String,
    right: String,
    #[serde(default)]
    moved: bool,
}

fn length(field: &'static str, typed: &str) -> ApiResult<Length> {
    notation::parse(typed, None, Sign::NotNegative).map_err(|e| Problem::field(field, e))
}

/// Pieces as a file has them: sizes as marked.
fn pieces(sizes: &[(String, u32)]) -> ApiResult<Vec<SizeCount>> {
    let piece = |(typed, count): &(String, u32)| {
        Ok(SizeCount {
            thickness_nm: length("choose", typed)?,
            grade: Grade::Marked,
            count: *count,
        })
    };
    sizes.iter().map(piece).collect()
}

/// Does one thing to a check that was seen at a version; the version that it is at then.
async fn do_to(
    on: &CheckRef<'_>,
    key: &IdempotencyKey,
    version: i32,
    did: CheckAct,
) -> ApiResult<i32> {
    let new = ActIn {
        act: Act::Check {
            check: on.key.to_owned(),
            did,
        },
        who: on.who.to_owned(),
    };
    let seen = Some(IfMatch::at(version));
    match acts::act(on.store, key, seen, on.job_no, &new).await?.on {
        ActedOn::Check { view } => Ok(view.version),
        _ => Err(Problem::server("an act on a check answered something else")),
    }
}

/// What a step of a file says, as acts; `ticks` is what is to be seen to before reading.
fn acts_of(step: &StepFile, ticks: &[String]) -> ApiResult<Vec<CheckAct>> {
    let one = match step {
        StepFile::Fitted(typed) => CheckAct::Fitted {
            typed: typed.clone(),
            unit: Unit::Mm,
        },
        StepFile::Read(readings) => {
            let travel = |typed: &String| {
                let travel = TravelInput {
                    travel: typed.clone(),
                    tilt: String::new(),
                    pull: String::new(),
                    turned: None,
                };
                reading(Method::DialTravel, ReadingInput::Travel(travel))
            };
            return Ok(readings.iter().map(travel).collect());
        }
        StepFile::Take(way, entries) => {
            let taken = entries.iter().map(|entry| reading(*way, entry.clone()));
            return Ok(taken.collect());
        }
        StepFile::Way(way) => CheckAct::Way { way: *way },
        StepFile::Ready(done) => {
            let tick = |tick: &String| CheckAct::Tick {
                tick: tick.clone(),
                done: *done,
            };
            return Ok(ticks.iter().map(tick).collect());
        }
        StepFile::Lay(laid) => CheckAct::Lay(laid.clone()),
        StepFile::Strike(reading_no, why) => CheckAct::Mark {
            reading_no: *reading_no,
            mark: ReadingMark::Struck,
            reason: why.clone(),
        },
        StepFile::Keep(reading_no) => CheckAct::Mark {
            reading_no: *reading_no,
            mark: ReadingMark::Kept,
            reason: String::new(),
        },
        StepFile::Choose(sizes) => CheckAct::Choose(NewPieces {
            pieces: pieces(sizes)?,
            family_key: None,
            out_nm: None,
            stays: false,
        }),
        StepFile::Instead(family, out, sizes) => CheckAct::Choose(NewPieces {
            pieces: pieces(sizes)?,
            family_key: Some(family.clone()),
            out_nm: Some(length("instead", out)?),
            stays: false,
        }),
        StepFile::Shims(ShimsFile { left, right, moved }) => CheckAct::Shims(ShimsInput {
            left: left.clone(),
            right: right.clone(),
            unit: Unit::Mm,
            moved: *moved,
        }),
        StepFile::Fit(put_back) => CheckAct::Fit {
            put_back: *put_back,
        },
        StepFile::Aim(aiming) => CheckAct::Aim(aiming.clone()),
        StepFile::Sign(why) => CheckAct::Sign {
            reason: why.clone(),
        },
        StepFile::Reopen(why) => CheckAct::Reopen {
            reason: why.clone(),
        },
    };
    Ok(vec![one])
}
