//! What has to be got over the whole bench.

use std::collections::BTreeMap;

use chrono::NaiveDate;
use serde::Serialize;

use super::view::ToGet;

/// Something that has to be got for one of the jobs on the bench.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct BenchPart {
    pub job_no: i32,
    /// What is on the bench.
    pub title: String,
    /// The job's sheet.
    pub sheet_key: String,
    /// What people call that box.
    pub sheet: String,
    /// The day for which the job is promised.
    pub promised: Option<NaiveDate>,
    #[serde(flatten)]
    pub of: ToGet,
}

/// The parts that are still to be ordered as rows of an order's file, the same part of several jobs as one row: no family
/// and no thickness, name with its box, count, number, and the jobs.
#[must_use]
pub fn rows_to_order(parts: &[BenchPart]) -> Vec<[String; 6]> {
    let mut rows: BTreeMap<(&str, &str), (u32, &BenchPart, Vec<String>)> = BTreeMap::new();
    for part in parts.iter().filter(|p| p.of.supply.to_order > 0) {
        let key = (part.sheet_key.as_str(), part.of.part.as_str());
        let (count, _, jobs) = rows.entry(key).or_insert((0, part, Vec::new()));
        *count += part.of.supply.to_order;
        jobs.push(format!("job {}, {}", part.job_no, part.title));
    }
    rows.into_values()
        .map(|(count, part, jobs)| {
            [
                String::new(),
                format!("{}, {}", part.of.name, part.sheet),
                String::new(),
                count.to_string(),
                part.of.number.clone(),
                jobs.join("; "),
            ]
        })
        .collect()
}
