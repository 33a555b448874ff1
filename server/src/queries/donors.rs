//! Dismantled boxes, with all that the core looks at.

use std::sync::Arc;

use anvil_rules::job::donors::{
    DismantledBox, DonorProblem, DonorsView, PartPin, ShelfPart, shelf_of, view,
};
use anvil_rules::job::parts::PartEntry;
use anvil_rules::sheet::Sheet;

use super::open_checks;
use crate::db::error::{DbResult, Unread, sort_out};
use crate::db::job::Job;
use crate::db::{self, Store, Tx};
use crate::http::problem::ApiResult;

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
        Ok(Self::read(store, tx, job_no).await?)
    }

    async fn read(store: &Store, tx: &mut Tx, job_no: i32) -> DbResult<Self> {
        let job = db::job::job(store, &mut **tx, job_no).await?;
        Ok(Self {
            sheet: db::sheet::built(store, &mut **tx, job.on_sheet()).await?,
            entries: db::part::entries(store, &mut **tx, job_no).await?,
            job,
        })
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
            is_gone: self.job.row.put_away_at.is_some(),
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
        let (mut others, mut unread) = (Vec::new(), Vec::new());
        for other in db::part::donors(store, &mut tx, key, MOST_BOXES).await? {
            if other != job_no {
                let of = Dismantled::read(store, &mut tx, other).await;
                others.extend(sort_out(other, of, &mut unread)?);
            }
        }
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
    let (mut all, mut unread) = (Vec::new(), Vec::new());
    for job_no in db::part::donors(store, &mut tx, None, MOST_ON_SHELF).await? {
        let of = Dismantled::read(store, &mut tx, job_no).await;
        if let Some(of) = sort_out(job_no, of, &mut unread)? {
            all.extend(shelf_of(&of.as_box()));
        }
    }
    Ok((all, unread))
}
