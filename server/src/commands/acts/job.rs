//! What is done with a job as a whole.

use anvil_rules::job::act::{Act, Undoing};
use anvil_rules::job::card::{
    JobAct, NewCard, NewNote, may_bring_back, may_put_away, may_take_back,
};
use anvil_rules::job::hand_over::may_hand_over;
use anvil_rules::job::undo::Undo;

use super::By;
use crate::commands::Write;
use crate::commands::jobs::earliest_day;
use crate::db::job::{self, Card, Job};
use crate::db::{Store, Tx, build, locks, sheet};
use crate::http::problem::{ApiResult, Problem};
use crate::queries::parts::LoadedParts;

/// Does something with a job, once.
///
/// # Errors
/// Where it may not be done as the job stands, or the job has changed since it was seen.
pub(super) async fn act(by: &By<'_>, act: &JobAct) -> ApiResult<Option<Undoing>> {
    let By {
        store,
        key,
        job_no,
        who,
        ..
    } = *by;
    let request = (job_no, act);
    Write::once(store, key, who, ("job", &request), |mut tx| async move {
        locks::hold_jobs(store, &mut tx, &[job_no]).await?;
        let job = job::job(store, &mut *tx, job_no).await?;
        if act.rests_on_what_was_seen() {
            by.still(job.version, "This job")?;
        }
        let noted = does(store, &mut tx, &job, act, who).await?;
        let undo = act.undoing(&card_of(&job), noted);
        let on_job = |undo: Undo<JobAct>| undo.map(|did| Act::Job { did }).into();
        Ok((tx, undo.map(on_job)))
    })
    .await
}

/// What stands on a job's card.
fn card_of(job: &Job) -> NewCard {
    NewCard {
        title: job.row.title.clone(),
        customer: job.row.customer.clone(),
        complaint: job.complaint.clone(),
        intake: Some(job.intake.clone()),
    }
}

/// Asks the rules of this act and stores it; the number of what was noted.
async fn does(
    store: &Store,
    tx: &mut Tx,
    job: &Job,
    act: &JobAct,
    who: &str,
) -> ApiResult<Option<i64>> {
    let job_no = job.row.job_no;
    match act {
        JobAct::Note(note) => {
            let NewNote { said, address } = note.taken()?;
            let note_no = job::note(store, tx, job_no, (&said, &address), who).await?;
            return Ok(Some(note_no));
        }
        JobAct::MarkNote { note_no, struck } => {
            if !job::mark_note(store, tx, (job_no, *note_no), *struck, who).await? {
                return Err(Problem::missing("There is no such note on this job."));
            }
        }
        JobAct::Card(new) => {
            let new = new.taken()?;
            let intake = if let Some(intake) = &new.intake {
                let sheet = sheet::built(store, &mut **tx, job.on_sheet()).await?;
                let today = earliest_day(build::now(&mut **tx).await?);
                intake.taken(&sheet, today, Some(&job.intake))?
            } else {
                job.intake.clone()
            };
            let card = Card {
                title: &new.title,
                customer: &new.customer,
                complaint: &new.complaint,
                intake,
                for_parts: false,
            };
            job::put_card(store, tx, job_no, &card, who).await?;
        }
        JobAct::HandOver { reason } => {
            let loaded = LoadedParts::held(store, tx, job_no).await?;
            let (signed, checks) = (job.row.signed_count, job.row.check_count);
            let why = may_hand_over(
                (job.row.standing, job.row.for_parts),
                (signed, checks),
                &loaded.not_seen_to()?,
                reason,
            )?;
            job::mark(store, tx, job_no, true, (&why, who)).await?;
        }
        JobAct::TakeBack {} => {
            may_take_back(job.row.standing)?;
            job::mark(store, tx, job_no, false, ("", who)).await?;
        }
        JobAct::PutAway { reason } => {
            let holds = job::holds_pieces(store, tx, job_no).await?;
            let why = may_put_away(job.row.standing, holds, reason)?;
            job::put_away(store, tx, job_no, true, (&why, who)).await?;
        }
        JobAct::BringBack {} => {
            may_bring_back(job.row.standing)?;
            job::put_away(store, tx, job_no, false, ("", who)).await?;
        }
    }
    Ok(None)
}
