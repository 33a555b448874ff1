//! The parts of a job, with all that the core looks at.

use anvil_rules::job::donors::DismantledBox;
use anvil_rules::job::hand_over::not_seen_to;
use anvil_rules::job::parts::{EarlierBox, PartAct, PartEntry, PartsView, findings, view};
use anvil_rules::job::standing::Standing;

use super::builds::LoadedBuild;
use crate::db::{self, Store, Tx};
use crate::http::problem::ApiResult;

/// What is known of a job's parts.
pub struct LoadedParts {
    pub build: LoadedBuild,
    pub entries: Vec<PartEntry>,
    /// The boxes of its sheet that came in with a complaint of its own before.
    pub earlier: Vec<EarlierBox>,
    /// The words that were said of parts of its sheet, each with its part, the commonest first.
    pub used: Vec<(String, String)>,
}

impl LoadedParts {
    /// The parts of a job to look at, as of one moment.
    ///
    /// # Errors
    /// Where there is no such job, or the database does not answer.
    pub async fn of(store: &Store, job_no: i32) -> ApiResult<Self> {
        let mut tx = store.moment().await?;
        Self::held(store, &mut tx, job_no).await
    }

    /// The same within a transaction that holds the job.
    ///
    /// # Errors
    /// As of [`LoadedParts::of`].
    pub async fn held(store: &Store, tx: &mut Tx, job_no: i32) -> ApiResult<Self> {
        let build = LoadedBuild::held(store, tx, job_no).await?;
        Ok(Self {
            entries: db::part::entries(store, &mut **tx, job_no).await?,
            earlier: db::part::of_earlier_boxes(store, tx, &build.job).await?,
            used: db::part::words_used(store, tx, &build.job.sheet_key).await?,
            build,
        })
    }

    /// Its box, as one that parts go into.
    #[must_use]
    pub fn as_box(&self) -> DismantledBox<'_> {
        let row = &self.build.job.row;
        DismantledBox {
            job_no: row.job_no,
            title: &row.title,
            sheet: &self.build.sheet,
            entries: &self.entries,
            for_parts: row.for_parts,
            is_gone: row.standing == Standing::PutAway,
        }
    }

    /// The box that a part of this one was taken from, as it stands.
    #[must_use]
    pub fn from_of(&self, part: &str) -> Option<i32> {
        findings(&self.entries).get(part).and_then(|f| f.from)
    }

    /// The boxes that a part of this one was ever taken from.
    pub fn givers_of(&self, part: &str) -> impl Iterator<Item = i32> {
        self.entries
            .iter()
            .filter_map(move |entry| match &entry.act {
                PartAct::Found(finding) if finding.part == part => finding.from,
                _ => None,
            })
    }

    /// What of its box nobody has seen to.
    ///
    /// # Errors
    /// Where the record contradicts the sheet.
    pub fn not_seen_to(&self) -> ApiResult<Vec<String>> {
        let of_parts = self.view()?;
        let steps = !self.build.sheet.build.is_empty();
        let build = steps.then(|| self.build.build()).transpose()?;
        let (looked_at, parts) = (of_parts.looked_at, of_parts.parts.len());
        Ok(not_seen_to(build.as_ref(), looked_at, parts))
    }

    /// As they are sent.
    ///
    /// # Errors
    /// Where the record contradicts the sheet.
    pub fn view(&self) -> ApiResult<PartsView> {
        let Self {
            build,
            entries,
            earlier,
            used,
        } = self;
        let complaints = &build.job.intake.complaints;
        Ok(view(
            &build.sheet,
            build.parts()?,
            entries,
            complaints,
            earlier,
            used,
        ))
    }
}
