//! One job as a file: all that is recorded of it with its sheet, its gauges and its people; out, and in at another shop.
//! `docs/FORMATS.md` describes it.

mod judged;
mod names;

use std::collections::BTreeSet;
use std::fs::File;
use std::io::{ErrorKind, Read, Seek};

use anvil_rules::job::check::workflow::Phase;
use anvil_rules::sheet::{self, Sheet};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};
use sha2::{Digest, Sha256};

use self::judged::{judged, within_bounds};
use self::names::Names;
use super::Write;
use super::locked_check::settle_again;
use crate::archive_file::{ArchiveError, Done, LARGEST_FILE, Reader, TableFile, Writer};
use crate::db::archive::{self, Table};
use crate::db::check::Bump;
use crate::db::shop::Person;
use crate::db::{self, Store, Tx, job_file};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::processor::heavily;

const FORMAT: &str = "dry-anvil-job";
/// The version of its form; the first was one JSON with all rows in it, pictures too.
const VERSION: u32 = 2;
const ABOUT: &str = "job.json";
/// Tables that name a job and belong to the shop: what moved in its drawers, its revisions, and what is under way.
const NOT_ITS_OWN: [&str; 3] = ["job_moved", "settle_due", "stock_move"];

type Row = Map<String, Value>;

/// What a job's file says beside its rows.
#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct About {
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
    #[serde(default)]
    tables: Vec<TableFile>,
    /// In the first version.
    #[serde(default, skip_serializing)]
    records: Vec<Records>,
}

/// What a table held of the job, in the first version.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Records {
    table: String,
    rows: Vec<Value>,
}

fn own_tables(tables: Vec<Table>) -> Vec<Table> {
    let own = |t: &Table| t.has("job_no") && !NOT_ITS_OWN.contains(&t.name.as_str());
    tables.into_iter().filter(own).collect()
}

/// The file holds something that cannot be taken in.
fn fault(why: impl std::fmt::Display) -> Problem {
    Problem::field("file", why.to_string())
}

/// A fault of the file, where it is.
fn fault_at(place: &str, why: impl std::fmt::Display) -> Problem {
    fault(format!(
        "What the file holds cannot be taken in ({place}): {why}."
    ))
}

impl From<ArchiveError> for Problem {
    fn from(error: ArchiveError) -> Self {
        match error {
            ArchiveError::Database(error) => error.into(),
            // A sum that does not agree, an end that is none.
            ArchiveError::File(why)
                if matches!(
                    why.kind(),
                    ErrorKind::InvalidData | ErrorKind::InvalidInput | ErrorKind::UnexpectedEof
                ) =>
            {
                fault_at("the archive", why)
            }
            ArchiveError::File(error) => Self::server(error),
            ArchiveError::Archive(why) => fault_at("the archive", why),
            ArchiveError::Refused(why) => fault_at("the archive", why),
        }
    }
}

/// A job as a file, as of one moment; it is gone when it is closed.
///
/// # Errors
/// Where there is no such job, or no room for it.
pub async fn file_out(store: &Store, job_no: i32) -> ApiResult<File> {
    let shop = db::shop::shop(store).await?;
    let mut tx = archive::moment(store).await?;
    let job = db::job::job(store, &mut *tx, job_no).await?;
    let sheet = db::sheet::revision(store, &mut *tx, &job.sheet_key, job.revision).await?;
    let mut out = Writer::new(tempfile::tempfile().map_err(Problem::server)?);
    let mut named = BTreeSet::new();
    let mut tables = Vec::new();
    for table in own_tables(archive::tables(&mut tx).await?) {
        let people = |row: &str| {
            let row: Row = serde_json::from_str(row).map_err(std::io::Error::from)?;
            let people = row.into_iter().filter(|(column, _)| is_person(column));
            named.extend(people.filter_map(|(_, who)| who.as_str().map(str::to_owned)));
            Ok(())
        };
        let of = (&table, Some(job_no));
        tables.push(out.table(store, &mut tx, of, people).await?);
    }
    let gauges = job_file::gauges(store, &mut tx, job_no).await?;
    let gauges = gauges.into_iter().filter_map(|g| g.as_object().cloned());
    let mut people = shop.people;
    people.retain(|p| named.contains(&p.initials));
    out.json(
        ABOUT,
        &About {
            format: FORMAT.into(),
            version: VERSION,
            made_at: Utc::now(),
            program: env!("CARGO_PKG_VERSION").into(),
            schema: archive::newest_schema(),
            shop: shop.name,
            sheet: serde_json::to_value(&*sheet).map_err(Problem::server)?,
            people,
            gauges: gauges.collect(),
            tables,
            records: Vec::new(),
        },
    )?;
    let mut file = out.finish("")?;
    file.rewind().map_err(Problem::server)?;
    Ok(file)
}

/// The columns that hold somebody's initials.
fn is_person(column: &str) -> bool {
    column == "who" || column.ends_with("_by")
}

/// A job's file that is whole.
pub struct JobFile {
    about: About,
    sheet: Sheet,
    archive: Reader,
    /// The same file has the same.
    sum: String,
}

/// Reads a job's file.
///
/// # Errors
/// Where it is none, is of a newer program, or has a fault.
pub fn read(mut file: File) -> ApiResult<JobFile> {
    file.rewind().map_err(Problem::server)?;
    let mut sum = Sha256::new();
    heavily(|| sum_of(&mut file, &mut sum)).map_err(Problem::server)?;
    file.rewind().map_err(Problem::server)?;
    let mut begins = Vec::new();
    (&file)
        .take(2)
        .read_to_end(&mut begins)
        .map_err(Problem::server)?;
    file.rewind().map_err(Problem::server)?;
    let (about, mut archive) = if begins == b"PK" {
        let mut archive = Reader::open(file)?;
        (about(archive.json(ABOUT)?)?, archive)
    } else {
        of_first_version(file)?
    };
    heavily(|| archive.check(&about.tables))?;
    let sheet = sheet::read(&about.sheet.to_string()).map_err(Problem::of_sheet)?;
    Ok(JobFile {
        about,
        sheet,
        archive,
        sum: hex::encode(sum.finalize()),
    })
}

fn sum_of(file: &mut File, sum: &mut Sha256) -> std::io::Result<()> {
    let mut piece = vec![0; 1 << 20];
    loop {
        match file.read(&mut piece)? {
            0 => return Ok(()),
            read => sum.update(&piece[..read]),
        }
    }
}

fn about(value: Value) -> ApiResult<About> {
    if value["format"] != FORMAT {
        return Err(fault(format!(
            "This is no job’s file: its “format” is not “{FORMAT}”."
        )));
    }
    let newer = value["version"].as_u64() > Some(VERSION.into())
        || value["schema"].as_i64() > Some(archive::newest_schema());
    if newer {
        return Err(fault(
            "This file was made by a newer Dry Anvil: take it in with that.",
        ));
    }
    serde_json::from_value(value)
        .map_err(|e| fault(format!("This job’s file cannot be read: {e}.")))
}

/// A file of the first version, as one of this.
fn of_first_version(file: File) -> ApiResult<(About, Reader)> {
    let mut text = Vec::new();
    let read = file.take(LARGEST_FILE).read_to_end(&mut text);
    read.map_err(Problem::server)?;
    let value = serde_json::from_slice(&text).map_err(|e| {
        fault(format!(
            "This is no job’s file: it is no ZIP, and no JSON either ({e})."
        ))
    })?;
    let mut about = about(value)?;
    let mut again = || -> Done<_> {
        let mut out = Writer::new(tempfile::tempfile()?);
        let records = about.records.drain(..);
        let tables: Done<Vec<TableFile>> = records.map(|r| out.rows(&r.table, &r.rows)).collect();
        Ok((tables?, Reader::open(out.finish("")?)?))
    };
    let (tables, archive) = again()?;
    about.tables = tables;
    Ok((about, archive))
}

/// Takes a job in from its file, under a number of this shop's; its number is returned.
///
/// # Errors
/// Where the file has a fault, or contradicts itself; then nothing is taken in.
pub async fn file_in(
    store: &Store,
    key: &IdempotencyKey,
    file: &JobFile,
    who: &str,
) -> ApiResult<i32> {
    let request = ("job_file", &file.sum);
    Write::once(store, key, who, request, |mut tx| async move {
        archive::patiently(&mut tx).await?;
        let mut names = Names::here(store, &mut tx, file, who).await?;
        let was = put_in(store, &mut tx, file, &mut names).await?;
        let job_no = names.job_no;
        judged(store, &mut tx, job_no).await?;
        let said = format!(
            "Taken in from a file of {}, where it was job {was}",
            file.about.shop
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

/// Puts all its rows in, each table's after those that they refer to; the number that the job had.
async fn put_in(
    store: &Store,
    tx: &mut Tx,
    file: &JobFile,
    names: &mut Names<'_>,
) -> ApiResult<i64> {
    let tables = own_tables(archive::tables(tx).await?);
    let known = |of: &TableFile| tables.iter().any(|t| t.name == of.table);
    if let Some(unknown) = file.about.tables.iter().find(|of| !known(of)) {
        return Err(fault_at(&unknown.table, "nothing here is called so"));
    }
    let mut archive = file.archive.clone();
    let mut was_job = 0;
    for table in &tables {
        let tables = file.about.tables.iter();
        for of in tables.filter(|of| of.table == table.name) {
            let mut lines = archive.lines(of)?;
            let mut at = 0;
            while let Some(line) = heavily(|| lines.line())? {
                at += 1;
                let place = format!("{}, row {at}", table.name);
                let there: Row = serde_json::from_str(&line).map_err(|e| fault_at(&place, e))?;
                within_bounds(&place, &there)?;
                let row = names.row_here(&table.name, &there);
                if table.name == "setting_piece" {
                    let text = |column| row.get(column).and_then(Value::as_str).unwrap_or_default();
                    let thickness = row.get("thickness_nm").and_then(Value::as_i64);
                    let line = (
                        text("family_key"),
                        thickness.unwrap_or_default(),
                        text("grade"),
                    );
                    let put = job_file::line_of(store, tx, line).await;
                    put.map_err(|e| fault_at(&place, e))?;
                }
                let files = heavily(|| lines.files(table, &row));
                let files = files.map_err(|e| fault_at(&place, e))?;
                let as_in = table.as_in(&row);
                let text = Value::Object(row).to_string();
                let number = archive::row_in(store, tx, &as_in, (&text, &files)).await;
                let number = number.map_err(|e| fault_at(&place, e))?;
                let counted = table.counted();
                let was = counted.and_then(|c| there.get(c)?.as_i64());
                if let (Some(column), Some(was), Some(is)) = (counted, was, number) {
                    names.numbers.insert((column.to_owned(), was), is);
                }
                if table.name == "job" {
                    was_job = there.get("job_no").and_then(Value::as_i64).unwrap_or(0);
                }
            }
        }
    }
    Ok(was_job)
}
