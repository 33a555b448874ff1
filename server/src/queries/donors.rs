//! Dismantled boxes, with all that the core looks at.

use std::sync::Arc;

use anvil_rules::job::donors::{
    DismantledBox, DonorProblem, DonorsView, PartPin, ShelfPart, shelf_of, view,
};
use anvil_rules::job::parts::PartEntry;
use anvil_rules::job::standing::Standing;
use anvil_rules::sheet::Sheet;

use super::open_checks;
use crate::db::error::{DbResult, Unread, sort_out};
use crate::db::job::Job;
use crate::db::{self, Store, Tx};
use crate::http::problem::{ApiResult, Problem};

/// The most boxes that stand beside a job's.
const MOST_BOXES: i64 = 40;
/// The most boxes whose parts are looked for on the shelf.
const MOST_ON_SHELF: i64 = 500;

/// What is known of a box that was taken apart.
pub struct Dismantled {
    pub job: Job,
    pub sheet: Arc<Sheet>,
    pub entries: Vec<PartEntry>,
}

impl Dismantled {
    /// A box within a transaction that holds its job.
    ///
    /// # Errors
    /// Where there is no such job, or the database does not answer.
    pub async fn held(store: &Store, tx: &mut Tx, job_no: i32) -> ApiResult<Self> {
        let job = db::job::job(store, &mut **tx, job_no).await?;
        Ok(Self {
            sheet: db::sheet::built(store, &mut **tx, job.on_sheet()).await?,
            entries: db::part::entries(store, &mut **tx, job_no).await?,
            job,
        })
    }

    /// Several boxes within a transaction that holds their jobs.
    ///
    /// # Errors
    /// Where one of them cannot be read, or the database does not answer.
    pub async fn several(store: &Store, tx: &mut Tx, numbers: &[i32]) -> ApiResult<Vec<Self>> {
        let (boxes, unread) = Self::all(store, tx, numbers).await?;
        match unread.first() {
            None => Ok(boxes),
            Some(first) => Err(Problem::server(&first.why)),
        }
    }

    /// Several boxes, in the order of their numbers as they are given, and those of them that cannot be read. However many
    /// they are, they are asked for at once.
    async fn all(
        store: &Store,
        tx: &mut Tx,
        numbers: &[i32],
    ) -> DbResult<(Vec<Self>, Vec<Unread>)> {
        let mut jobs = db::job::jobs(store, &mut **tx, numbers).await?;
        let mut entries = db::part::entries_of(store, &mut **tx, numbers).await?;
        let (mut boxes, mut unread) = (Vec::new(), Vec::new());
        for number in numbers {
            let Some(job) = jobs.remove(number) else {
                continue;
            };
            let said = entries.remove(number).unwrap_or_else(|| Ok(Vec::new()));
            let read = job.and_then(|job| Ok((job, said?)));
            let Some((job, entries)) = sort_out(*number, read, &mut unread)? else {
                continue;
            };
            let sheet = db::sheet::built(store, &mut **tx, job.on_sheet()).await;
            let sheet = sort_out(*number, sheet, &mut unread)?;
            boxes.extend(sheet.map(|sheet| Self {
                job,
                sheet,
                entries,
            }));
        }
        Ok((boxes, unread))
    }

    /// As the core looks at it.
    #[must_use]
    pub fn as_box(&self) -> DismantledBox<'_> {
        DismantledBox {
            job_no: self.job.row.job_no,
            title: &self.job.row.title,
            sheet: &self.sheet,
            entries: &self.entries,
            for_parts: self.job.row.for_parts,
            is_gone: self.job.row.standing == Standing::PutAway,
        }
    }
}

/// The box of a job, and those that parts can come out of.
pub struct Boxes {
    pub own: Dismantled,
    pub others: Vec<Dismantled>,
    /// Those of them that cannot be read.
    pub unread: Vec<Unread>,
}

impl Boxes {
    /// As of one moment.
    ///
    /// # Errors
    /// Where there is no such job, or the database does not answer.
    pub async fn of(store: &Store, job_no: i32) -> ApiResult<Self> {
        let mut tx = store.moment().await?;
        let own = Dismantled::held(store, &mut tx, job_no).await?;
        let key = Some(own.job.sheet_key.as_str());
        let mut numbers = db::part::donors(store, &mut tx, key, MOST_BOXES).await?;
        numbers.retain(|other| *other != job_no);
        let (others, unread) = Dismantled::all(store, &mut tx, &numbers).await?;
        Ok(Self {
            own,
            others,
            unread,
        })
    }

    /// Side by side.
    #[must_use]
    pub fn view(&self) -> DonorsView {
        let others: Vec<DismantledBox<'_>> = self.others.iter().map(Dismantled::as_box).collect();
        view(&self.own.as_box(), &others)
    }
}

/// What the best box is searched for in.
///
/// # Errors
/// Where there is no such job, a check cannot be read, or a pin is of a part that cannot be taken.
pub async fn problem(
    store: &Store,
    job_no: i32,
    pins: (&[PartPin], &[i32]),
) -> ApiResult<DonorProblem> {
    let boxes = Boxes::of(store, job_no).await?;
    let checks = open_checks::of_lengths(store, job_no).await?;
    Ok(DonorProblem::of(
        &boxes.own.sheet,
        &boxes.view(),
        checks,
        pins,
    )?)
}

/// The shelf of used parts.
///
/// # Errors
/// Where the database does not answer.
pub async fn shelf(store: &Store) -> ApiResult<(Vec<ShelfPart>, Vec<Unread>)> {
    let mut tx = store.moment().await?;
    let numbers = db::part::donors(store, &mut tx, None, MOST_ON_SHELF).await?;
    let (boxes, unread) = Dismantled::all(store, &mut tx, &numbers).await?;
    let parts = boxes.iter().flat_map(|of| shelf_of(&of.as_box()));
    Ok((parts.collect(), unread))
}
