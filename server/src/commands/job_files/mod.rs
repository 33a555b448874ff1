//! One job as a file: all that is recorded of it with its sheet, its gauges and its people; out, and in at another shop.
//! `docs/FORMATS.md` describes it.

use std::collections::BTreeMap;
use std::sync::Arc;

use anvil_arithmetic::refusal::Refusal;
use anvil_rules::job_check::workflow::Phase;
use anvil_rules::job_parts::{PartAct, PartState, taken};
use anvil_rules::sheet::{self, Sheet};
use anvil_rules::shop::people;
use anvil_rules::texts::{too_long, unstorable};
use chrono::{DateTime, TimeDelta, Utc};
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value, json};

use super::Write;
use super::locked_check::settle_again;
use crate::db::archive::{self, Table};
use crate::db::check::Bump;
use crate::db::shop::Person;
use crate::db::{self, Store, Tx, job_file};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::CheckRef;
use crate::queries::identity::Sheets;
use crate::queries::parts::LoadedParts;
use crate::views::check::check_view;

const FORMAT: &str = "dry-anvil-job";
const VERSION: u32 = 1;
/// Tables that name a job and belong to the shop: what moved in its drawers, its revisions, and what is under way.
const NOT_ITS_OWN: [&str; 3] = ["job_moved", "settle_due", "stock_move"];

type Row = Map<String, Value>;

/// A job as a file.
#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct JobFile {
    format: String,
    version: u32,
    /// As of when everything is.
    made_at: DateTime<Utc>,
    /// The version of the program that made it.
    program: String,
    /// The newest change of the schema that it knew.
    schema: i64,
    /// Whose job it is.
    shop: String,
    sheet: Value,
    people: Vec<Person>,
    gauges: Vec<Row>,
    records: Vec<Records>,
}

/// What a table holds of the job.
#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Records {
    table: String,
    rows: Vec<Row>,
}

fn own_tables(tables: Vec<Table>) -> impl Iterator<Item = Table> {
    tables
        .into_iter()
        .filter(|t| t.has("job_no") && !NOT_ITS_OWN.contains(&t.name.as_str()))
}

/// A job as a file, as of one moment.
///
/// # Errors
/// Where there is no such job.
pub async fn file_out(store: &Store, job_no: i32) -> ApiResult<JobFile> {
    let shop = db::shop::shop(store).await?;
    let mut tx = archive::moment(store).await?;
    let job = db::job::job(store, &mut *tx, job_no).await?;
    let sheet = db::sheet::revision(store, &mut *tx, &job.sheet_key, job.revision).await?;
    let mut records = Vec::new();
    for table in own_tables(archive::tables(&mut tx).await?) {
        let rows = archive::rows_of_job(store, &mut tx, &table, job_no).await?;
        let rows = rows.into_iter().filter_map(|row| match row {
            Value::Object(mut row) => {
                row.remove("shop_id");
                Some(row)
            }
            _ => None,
        });
        records.push(Records {
            table: table.name,
            rows: rows.collect(),
        });
    }
    let gauges = job_file::gauges(store, &mut tx, job_no).await?;
    let gauges = gauges.into_iter().filter_map(|g| g.as_object().cloned());
    let named = |person: &Person| {
        let rows = records.iter().flat_map(|r| &r.rows);
        rows.flat_map(Row::iter)
            .any(|(column, value)| is_person(column) && *value == *person.initials)
    };
    Ok(JobFile {
        format: FORMAT.into(),
        version: VERSION,
        made_at: Utc::now(),
        program: env!("CARGO_PKG_VERSION").into(),
        schema: archive::newest_schema(),
        shop: shop.name,
        sheet: serde_json::to_value(&*sheet).map_err(Problem::server)?,
        people: shop.people.into_iter().filter(named).collect(),
        gauges: gauges.collect(),
        records,
    })
}

/// The columns that hold somebody's initials.
fn is_person(column: &str) -> bool {
    column == "who" || column.ends_with("_by")
}

/// Reads a job's file.
///
/// # Errors
/// Where it is none, is of a newer program, or has a fault.
pub fn read(text: &str) -> ApiResult<(JobFile, Sheet)> {
    let fault = |title: String| Problem::field("text", title);
    let value: Value =
        serde_json::from_str(text).map_err(|e| fault(format!("This is no JSON: {e}.")))?;
    if value["format"] != FORMAT {
        return Err(fault(format!(
            "This is no job’s file: its “format” is not “{FORMAT}”."
        )));
    }
    let newer = value["version"].as_u64() > Some(VERSION.into())
        || value["schema"].as_i64() > Some(archive::newest_schema());
    if newer {
        return Err(fault(
            "This file was made by a newer Dry Anvil: take it in with that.".into(),
        ));
    }
    let file: JobFile = serde_json::from_value(value)
        .map_err(|e| fault(format!("This job’s file cannot be read: {e}.")))?;
    let sheet = sheet::read(&file.sheet.to_string()).map_err(Problem::of_sheet)?;
    Ok((file, sheet))
}

/// Takes a job in from its file, under a number of this shop's; its number is returned.
///
/// # Errors
/// Where the file has a fault, or contradicts itself; then nothing is taken in.
pub async fn file_in(
    store: &Store,
    key: &IdempotencyKey,
    (file, sheet): (&JobFile, &Sheet),
    who: &str,
) -> ApiResult<i32> {
    Write::once(store, key, who, ("job_file", file), |mut tx| async move {
        let mut names = Names {
            numbers: BTreeMap::new(),
            job_no: db::job::next_no(store, &mut tx).await?,
            sheet: sheet_here(store, &mut tx, sheet, who).await?,
            people: people_here(store, &mut tx, file).await?,
            gauges: gauges_here(store, &mut tx, &file.gauges).await?,
            who,
        };
        put_in(store, &mut tx, file, &mut names).await?;
        let job_no = names.job_no;
        judged(store, &mut tx, job_no).await?;
        let was = file.records.iter().find(|r| r.table == "job");
        let number = was.and_then(|r| r.rows.first()?.get("job_no")?.as_i64());
        let said = format!(
            "Taken in from a file of {}, where it was job {}",
            file.shop,
            number.unwrap_or_default()
        );
        db::job::note(store, &mut tx, job_no, (&said, ""), who).await?;
        let checks = db::job::checks(store, &mut *tx, job_no).await?;
        let open: Vec<(i32, String)> = checks
            .into_iter()
            .filter(|c| !matches!(c.phase, Phase::Signed | Phase::Elsewhere))
            .map(|c| (job_no, c.check_key))
            .collect();
        settle_again(store, &mut tx, &open, Bump::Always).await?;
        Ok((tx, job_no))
    })
    .await
}

/// What things of the file are called here.
struct Names<'a> {
    job_no: i32,
    sheet: (String, i32),
    /// Initials there and here.
    people: Vec<(String, String)>,
    /// Keys there and here.
    gauges: Vec<(String, String)>,
    /// What the database counted there, by its column, and as it counts it here.
    numbers: BTreeMap<(String, i64), i64>,
    who: &'a str,
}

impl Names<'_> {
    fn number(&self, column: &str, there: &Value) -> Option<i64> {
        let key = (column.to_owned(), there.as_i64()?);
        self.numbers.get(&key).copied()
    }

    /// A row as it stands here. What the other shop knows of a gauge's scatter stays there, and what was set aside there
    /// was of its drawers.
    fn here(&self, table: &str, row: &Row) -> Row {
        let name = |names: &[(String, String)], there: &Value| {
            let found = names.iter().find(|(name, _)| there == name);
            found.map_or_else(|| there.clone(), |(_, here)| json!(here))
        };
        let mut row = row.clone();
        for (column, value) in &mut row {
            let here = match column.as_str() {
                "job_no" => json!(self.job_no),
                "sheet_key" => json!(self.sheet.0),
                "gauge_key" => name(&self.gauges, value),
                column if is_person(column) => name(&self.people, value),
                column => match self.number(column, value) {
                    Some(here) => json!(here),
                    None => continue,
                },
            };
            *value = here;
        }
        match table {
            "job" => drop(row.insert("revision".into(), json!(self.sheet.1))),
            "signing" => {
                for column in ["gauge_key", "squares", "scatter_dof"] {
                    row.insert(column.into(), Value::Null);
                }
            }
            "setting" if row.get("state").is_some_and(|s| s == "chosen") => {
                row.insert("state".into(), json!("let_go"));
                row.insert("ended_by".into(), json!(self.who));
                row.insert("ended_at".into(), json!(Utc::now()));
            }
            "setting_piece" => drop(row.insert("reserved".into(), json!(0))),
            // The box that it was taken from stands there; what is another job here is not it.
            "part_act" => {
                if let Some(said) = row.get_mut("said").and_then(Value::as_object_mut) {
                    said.remove("from");
                }
            }
            _ => {}
        }
        row
    }
}

async fn put_in(
    store: &Store,
    tx: &mut Tx,
    file: &JobFile,
    names: &mut Names<'_>,
) -> ApiResult<()> {
    let faulty = |table: &str, why: &dyn std::fmt::Display| {
        Problem::field(
            "text",
            format!("What the file holds in “{table}” cannot be taken in: {why}."),
        )
    };
    let tables: Vec<Table> = own_tables(archive::tables(tx).await?).collect();
    let known = |table: &str| tables.iter().any(|t| t.name == table);
    if let Some(unknown) = file.records.iter().find(|r| !known(&r.table)) {
        return Err(faulty(&unknown.table, &"nothing here is called so"));
    }
    for table in &tables {
        let rows = file.records.iter().filter(|r| r.table == table.name);
        for (at, there) in rows.flat_map(|r| &r.rows).enumerate() {
            within_bounds(&format!("{}, row {}", table.name, at + 1), there)?;
            let row = names.here(&table.name, there);
            if table.name == "setting_piece" {
                let text = |column| row.get(column).and_then(Value::as_str).unwrap_or_default();
                let thickness = row.get("thickness_nm").and_then(Value::as_i64);
                let line = (
                    text("family_key"),
                    thickness.unwrap_or_default(),
                    text("grade"),
                );
                job_file::line_of(store, tx, line)
                    .await
                    .map_err(|e| faulty(&table.name, &e))?;
            }
            let as_in = table.as_in(&row);
            let files = table.files().iter().map(|column| {
                let digits = row.get(column).and_then(Value::as_str);
                let digits = digits.and_then(|d| d.strip_prefix("\\x"));
                digits.and_then(|d| hex::decode(d).ok())
            });
            let files: Vec<Vec<u8>> = files
                .collect::<Option<_>>()
                .ok_or_else(|| faulty(&table.name, &"a picture is no picture"))?;
            let text = Value::Object(row).to_string();
            let number = archive::row_in(store, tx, &as_in, (&text, &files))
                .await
                .map_err(|e| faulty(&table.name, &e))?;
            let counted = table.counted();
            let was = counted.and_then(|c| there.get(c)?.as_i64());
            if let (Some(column), Some(was), Some(is)) = (counted, was, number) {
                names.numbers.insert((column.to_owned(), was), is);
            }
        }
    }
    Ok(())
}

/// A fault of the file, where it is.
fn fault_at(place: &str, why: impl std::fmt::Display) -> Problem {
    Problem::field(
        "text",
        format!("What the file holds cannot be taken in ({place}): {why}."),
    )
}

/// Holds a row to what this program writes: its texts are as long as their fields may be, and what happened in it lies
/// between the first of these programs and now.
fn within_bounds(place: &str, row: &Row) -> ApiResult<()> {
    let value = Value::Object(row.clone());
    if let Some(field) = unstorable(&value) {
        return Err(fault_at(place, format!("{field} holds a NUL")));
    }
    if let Some((field, most)) = too_long(&value).filter(|(field, _)| !is_bytes(row, field)) {
        return Err(fault_at(
            place,
            format!("{field} may have up to {most} characters"),
        ));
    }
    for (column, value) in row {
        let is_time = column == "at" || column.ends_with("_at");
        if let Some(text) = value.as_str().filter(|_| is_time)
            && !may_be_when(text)
        {
            return Err(fault_at(
                place,
                format!("{column} is “{text}”, and is to be a time between 2000 and now"),
            ));
        }
    }
    Ok(())
}

/// What a picture is made of stands as text.
fn is_bytes(row: &Row, field: &str) -> bool {
    let text = row.get(field).and_then(Value::as_str);
    text.is_some_and(|t| t.starts_with("\\x"))
}

/// A clock of another shop may be a day off.
fn may_be_when(text: &str) -> bool {
    let first = DateTime::from_timestamp(946_684_800, 0);
    let last = Utc::now() + TimeDelta::days(1);
    text.parse::<DateTime<Utc>>()
        .is_ok_and(|at| first.is_some_and(|first| at >= first) && at <= last)
}

/// Reads all that was put in as everything here reads it, and holds what was found of the parts to what may be said of
/// them: what no view could show, or nobody could have said, is refused while it is nobody's.
async fn judged(store: &Store, tx: &mut Tx, job_no: i32) -> ApiResult<()> {
    let told = |place: &str| {
        let place = place.to_owned();
        move |p: Problem| match p.unreadable {
            Some(why) => fault_at(&place, why),
            None if p.status == 422 || p.status == 409 || p.status == 404 => {
                fault_at(&place, p.title.trim_end_matches('.'))
            }
            None => p,
        }
    };
    let parts = LoadedParts::held(store, tx, job_no)
        .await
        .map_err(told("parts and build"))?;
    let sheet = Arc::clone(&parts.build.sheet);
    if !sheet.build.is_empty() {
        parts.build.build().map_err(told("build"))?;
        parts.build.parts().map_err(told("build"))?;
    }
    parts.view().map_err(told("parts"))?;
    let register = db::gauge::list(store, &mut **tx).await?;
    for (at, entry) in parts.entries.iter().enumerate() {
        let said_of = match &entry.act {
            PartAct::Found(finding) if finding.state != PartState::FromAnother => &finding.part,
            _ => continue,
        };
        // What an older revision had is not asked about any more.
        if sheet.name_of_part(said_of).is_some() {
            taken(&sheet, &parts.entries[..at], &entry.act, &register)
                .map_err(|r| told(&format!("part_act, row {}", at + 1))(r.into()))?;
        }
    }
    Sheets::of_job(store, tx, &parts.build.job)
        .await
        .map_err(told("identity"))?;
    let answers = db::identity::entries(store, &mut **tx, job_no).await;
    answers.map_err(|e| told("identity")(e.into()))?;
    for check in db::job::checks(store, &mut **tx, job_no).await? {
        let on = CheckRef {
            store,
            job_no,
            key: &check.check_key,
            who: "",
        };
        let place = format!("check {}", check.check_key);
        let head = db::check::head(store, &mut **tx, job_no, on.key).await?;
        let loaded = on.load_held(tx, head).await.map_err(told(&place))?;
        check_view(loaded).map_err(told(&place))?;
    }
    Ok(())
}

/// The sheet as this shop has it: its own where it says the same, else one under a key of its own, so that no sheet of
/// the shop's becomes another's.
async fn sheet_here(
    store: &Store,
    tx: &mut Tx,
    sheet: &Sheet,
    who: &str,
) -> ApiResult<(String, i32)> {
    let mut sheet = sheet.clone();
    let key = sheet.key.clone();
    for number in 2.. {
        let body = serde_json::to_string_pretty(&sheet).map_err(Problem::server)?;
        match job_file::revision_of(store, tx, &sheet.key, &body).await? {
            (Some(revision), _) => return Ok((sheet.key, revision)),
            (None, false) => break,
            (None, true) => sheet.key = format!("{key}-{number}"),
        }
    }
    let revision = db::sheet::take_in(store, tx, &sheet, None, Some(who)).await?;
    Ok((sheet.key, revision))
}

/// The people of the file by initials of this shop: whose are another's here get others.
async fn people_here(
    store: &Store,
    tx: &mut Tx,
    file: &JobFile,
) -> ApiResult<Vec<(String, String)>> {
    let mut here = db::shop::people(store, &mut **tx).await?;
    let mut names = Vec::new();
    for person in &file.people {
        let of_person = |r: Refusal| {
            fault_at(
                &format!("people, {}", person.initials),
                r.message.trim_end_matches('.'),
            )
        };
        people::initials(&person.initials).map_err(of_person)?;
        people::name("name", &person.name).map_err(of_person)?;
        let name = format!("{} ({})", person.name, file.shop);
        let known = here
            .iter()
            .find(|h| h.name == name || (h.initials == person.initials && h.name == person.name));
        let initials = if let Some(known) = known {
            known.initials.clone()
        } else {
            let free = |initials: &String| !here.iter().any(|h| h.initials == *initials);
            let more = ('A'..='Z').flat_map(|a| {
                let short: String = person.initials.chars().take(3).collect();
                let shorter: String = person.initials.chars().take(2).collect();
                [format!("{short}{a}"), format!("{shorter}X{a}")]
            });
            let mut all = std::iter::once(person.initials.clone()).chain(more);
            let initials = all.find(free).ok_or_else(|| {
                Problem::field(
                    "text",
                    format!("Nobody more can be called “{}” here.", person.initials),
                )
            })?;
            let new = Person {
                gone: false,
                initials: initials.clone(),
                name,
            };
            db::shop::add_person(store, tx, &new).await?;
            here.push(new);
            initials
        };
        names.push((person.initials.clone(), initials));
    }
    Ok(names)
}

/// The gauges of the file by keys of this shop: its own where it says the same of them, else one that is out of use.
async fn gauges_here(
    store: &Store,
    tx: &mut Tx,
    gauges: &[Row],
) -> ApiResult<Vec<(String, String)>> {
    /// What a shop does with a gauge, and not what it is.
    const THE_SHOPS: [&str; 7] = [
        "name",
        "usual",
        "retired",
        "version",
        "checked_on",
        "due_on",
        "live_at",
    ];
    let itself = |row: &Row| {
        let mut row = row.clone();
        row.retain(|column, _| !THE_SHOPS.contains(&column.as_str()));
        row
    };
    let table = archive::tables(tx)
        .await?
        .into_iter()
        .find(|t| t.name == "gauge");
    let table = table.ok_or_else(|| Problem::server("there is no table of gauges"))?;
    let mut names = Vec::new();
    for gauge in gauges {
        let there = gauge
            .get("gauge_key")
            .and_then(Value::as_str)
            .unwrap_or_default()
            .to_owned();
        let mut new = gauge.clone();
        for (column, value) in [
            ("usual", json!(false)),
            ("retired", json!(true)),
            ("live_at", json!("")),
        ] {
            new.insert(column.into(), value);
        }
        let mut key = there.clone();
        for number in 2.. {
            new.insert("gauge_key".into(), json!(key));
            match job_file::gauge(store, tx, &key).await? {
                None => {
                    let text = Value::Object(new.clone()).to_string();
                    let added = archive::rows_in(store, tx, &table.as_in(&new), &[&text]).await;
                    added.map_err(|e| {
                        Problem::field(
                            "text",
                            format!("The gauge “{there}” of the file cannot be taken in: {e}."),
                        )
                    })?;
                    break;
                }
                Some(Value::Object(own)) if itself(&own) == itself(&new) => break,
                Some(_) => key = format!("{there}-{number}"),
            }
        }
        names.push((there, key));
    }
    Ok(names)
}
