//! What things of a job's file are called here.

use std::collections::BTreeMap;

use anvil_arithmetic::refusal::Refusal;
use anvil_rules::sheet::Sheet;
use anvil_rules::shop::people;
use chrono::Utc;
use serde_json::{Value, json};

use super::{JobFile, Row, fault, fault_at, is_person};
use crate::db::shop::Person;
use crate::db::{self, Store, Tx, archive, job_file};
use crate::http::problem::{ApiResult, Problem};

/// What things of the file are called here.
pub struct Names<'a> {
    pub job_no: i32,
    sheet: (String, i32),
    /// Initials there and here.
    people: Vec<(String, String)>,
    /// Keys there and here.
    gauges: Vec<(String, String)>,
    /// What the database counted there, by its column, and as it counts it here.
    pub numbers: BTreeMap<(String, i64), i64>,
    who: &'a str,
}

impl<'a> Names<'a> {
    /// Finds or makes what the file names.
    ///
    /// # Errors
    /// Where it cannot be here.
    pub async fn here(store: &Store, tx: &mut Tx, file: &JobFile, who: &'a str) -> ApiResult<Self> {
        let JobFile { about, sheet, .. } = file;
        Ok(Self {
            numbers: BTreeMap::new(),
            job_no: db::job::next_no(store, tx).await?,
            sheet: sheet_here(store, tx, sheet, who).await?,
            people: people_here(store, tx, (&about.people, &about.shop)).await?,
            gauges: gauges_here(store, tx, &about.gauges).await?,
            who,
        })
    }

    fn number(&self, column: &str, there: &Value) -> Option<i64> {
        let key = (column.to_owned(), there.as_i64()?);
        self.numbers.get(&key).copied()
    }

    /// A row as it stands here. What the other shop knows of a gauge's scatter stays there, and what was set aside there
    /// was of its drawers.
    pub fn row_here(&self, table: &str, row: &Row) -> Row {
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
    (people_there, shop): (&[Person], &str),
) -> ApiResult<Vec<(String, String)>> {
    let mut here = db::shop::people(store, &mut **tx).await?;
    let mut names = Vec::new();
    for person in people_there {
        let of_person = |r: Refusal| {
            fault_at(
                &format!("people, {}", person.initials),
                r.message.trim_end_matches('.'),
            )
        };
        people::initials(&person.initials).map_err(of_person)?;
        people::name("name", &person.name).map_err(of_person)?;
        let name = format!("{} ({shop})", person.name);
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
                fault(format!(
                    "Nobody more can be called “{}” here.",
                    person.initials
                ))
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
                        fault(format!(
                            "The gauge “{there}” of the file cannot be taken in: {e}."
                        ))
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
