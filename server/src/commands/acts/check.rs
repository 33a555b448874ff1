//! What is done to a check.

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::uncertainty::bias::Bias;
use anvil_arithmetic::units::length::Unit;
use anvil_rules::job::act::{Act, Undoing};
use anvil_rules::job::check::act::{CheckAct, NewLayout, NewReading};
use anvil_rules::job::check::record::{ReadingMark, Signing};
use anvil_rules::job::check::rules;
use anvil_rules::job::check::shims::ShimsInput;
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::target::TargetOverrideInput;

use super::By;
use crate::commands::LockedCheck;
use crate::db::check::{self, CheckStatus};
use crate::db::job;
use crate::http::problem::ApiResult;
use crate::queries::CheckRef;
use crate::queries::predictions;
use anvil_rules::job::check::view::CheckView;

/// Does something to a check, once.
///
/// # Errors
/// Where it may not be done as the check stands, or the check has changed since it was seen.
pub(super) async fn act(
    of: &CheckRef<'_>,
    by: &By<'_>,
    act: &CheckAct,
) -> ApiResult<(CheckView, Option<Undoing>)> {
    // Looked up before the check is held: a write waits for no second connection.
    let past = match act {
        CheckAct::Usual { .. } => {
            let head = check::head(of.store, &of.store.pool, of.job_no, of.key).await?;
            predictions::of_check(of.store, &head.sheet_key, of.key).await?
        }
        _ => None,
    };
    let usual = past.as_ref().and_then(|p| p.usual.as_ref());
    let done = LockedCheck::once(of, by.key, act, |held| async move {
        held.does(by, act, usual).await
    });
    let (view, undo) = done.await?;
    if matches!(act, CheckAct::Sign { .. } | CheckAct::Reopen { .. }) {
        of.store.due.notify_one();
    }
    let on_job = |did| Act::Check {
        check: of.key.to_owned(),
        did,
    };
    Ok((view, undo.map(|undo| undo.map(on_job).into())))
}

impl LockedCheck<'_> {
    /// Asks the rules of this kind of act, and stores it with what follows.
    async fn does(self, by: &By<'_>, act: &CheckAct, usual: Option<&Bias>) -> ApiResult<CheckView> {
        if let CheckAct::Sign { .. } = act {
            // Said before the version is looked at: the second of two people learns who was first.
            rules::not_signed(&self.record)?;
        }
        if act.rests_on_what_was_seen() {
            by.still(self.record.head.version, "This check")?;
        }
        match act {
            CheckAct::Read(new) => self.read(new).await,
            CheckAct::Way { way } => self.say_method(*way).await,
            CheckAct::Bench { bench_c } => self.say_bench(*bench_c).await,
            CheckAct::Tick { tick, done } => self.say_tick(tick, *done).await,
            CheckAct::Mark {
                reading_no,
                mark,
                reason,
            } => self.mark(*reading_no, *mark, reason).await,
            CheckAct::Fitted { typed, unit } => self.say_fitted(typed, *unit).await,
            CheckAct::Aim(asked) => self.override_target(asked).await,
            CheckAct::Usual { counts } => self.decide_bias(*counts, usual).await,
            CheckAct::Choose(new) => self.choose_and_settle(new).await,
            CheckAct::Ground(piece) => self.take_ground(by.key, piece).await,
            CheckAct::LetGo {} => self.let_go().await,
            CheckAct::Fit { put_back } => self.fit_and_settle(*put_back).await,
            CheckAct::UndoFit {} => self.undo_fit().await,
            CheckAct::Lay(new) => self.lay(new).await,
            CheckAct::Shims(new) => self.say_shims(new).await,
            CheckAct::Sign { reason } => self.sign(reason).await,
            CheckAct::Reopen { reason } => self.reopen(reason).await,
        }
    }

    /// Adds a reading as typed.
    async fn read(mut self, new: &NewReading) -> ApiResult<CheckView> {
        let reading = self.record.reading_of(&self.spec()?, new, self.by())?;
        self.record.readings.push(reading.clone());
        let found = self.assess()?;
        let status = CheckStatus::of(&self.record, &found);
        check::add_reading(self.of.store, &mut self.tx, &self.record, &reading, &status).await?;
        self.settled(found).await
    }

    /// Says which method counts.
    async fn say_method(mut self, method: Method) -> ApiResult<CheckView> {
        rules::may_count(&self.record, method)?;
        let who = self.of.who;
        check::say_way(self.of.store, &mut self.tx, &self.record, method, who).await?;
        self.record.head.way = Some(method);
        self.settle().await
    }

    /// Says how warm box and parts were while they were measured.
    async fn say_bench(mut self, bench_c: f64) -> ApiResult<CheckView> {
        rules::may_say_bench(&self.record, &self.spec()?, bench_c)?;
        let who = self.of.who;
        check::say_bench(self.of.store, &mut self.tx, &self.record, bench_c, who).await?;
        self.record.head.bench_c = Some(bench_c);
        self.settle().await
    }

    /// Says that something was seen to before readings are believed, or that it was not.
    async fn say_tick(mut self, tick: &str, done: bool) -> ApiResult<CheckView> {
        rules::may_tick(&self.record, &self.spec()?, tick)?;
        let who = self.of.who;
        check::say_tick(self.of.store, &mut self.tx, &self.record, tick, done, who).await?;
        self.reread_and_settle().await
    }

    /// Strikes a reading out, restores it, or says that it is right as it is.
    async fn mark(mut self, reading_no: i32, mark: ReadingMark, why: &str) -> ApiResult<CheckView> {
        let said = self.record.mark_of((reading_no, mark, why), self.by())?;
        check::mark_reading(self.of.store, &mut self.tx, &self.record, &said).await?;
        self.record.marks.push(said);
        self.settle().await
    }

    /// Says what is fitted now.
    async fn say_fitted(mut self, typed: &str, unit: Unit) -> ApiResult<CheckView> {
        let fitted = self.record.fitted_of(typed, unit)?;
        let who = self.of.who;
        check::say_fitted(self.of.store, &mut self.tx, &self.record, fitted, who).await?;
        self.record.head.fitted_nm = Some(fitted.nm());
        self.reread_and_settle().await
    }

    /// Says where to aim on this job, with the reason.
    async fn override_target(mut self, asked: &TargetOverrideInput) -> ApiResult<CheckView> {
        let of_sheet = Spec::of(&self.sheet, self.of.key)?;
        let said = self.record.target_of(&of_sheet, asked, self.by())?;
        check::say_aim(self.of.store, &mut self.tx, &self.record, &said).await?;
        self.reread_and_settle().await
    }

    /// Says that the usual difference of boxes before counts here, or no longer does.
    async fn decide_bias(mut self, counts: bool, usual: Option<&Bias>) -> ApiResult<CheckView> {
        let said = self.record.bias_of(counts, usual, self.by())?;
        check::say_usual(self.of.store, &mut self.tx, &self.record, &said).await?;
        self.reread_and_settle().await
    }

    /// Signs it off.
    async fn sign(mut self, why: &str) -> ApiResult<CheckView> {
        let found = self.assess()?;
        let signing = self
            .record
            .signing_of(&self.spec()?, &found, why, self.by())?;
        let u = found.estimate.as_ref().map(|e| (e.u_nm, e.dof));
        let readings = found.readings().and_then(|n| i32::try_from(n).ok());
        let Self { of, tx, record, .. } = &mut self;
        check::sign(of.store, tx, record, &signing, u, readings).await?;
        self.ask_again().await?;
        self.reread_and_settle().await
    }

    /// Takes its signature back; a job handed over is taken back.
    async fn reopen(mut self, why: &str) -> ApiResult<CheckView> {
        let reason = rules::may_reopen(&self.record, why)?;
        let Self {
            of, tx, record, at, ..
        } = &mut self;
        let signing = Signing::reopened(reason, of.who, *at);
        check::sign(of.store, tx, record, &signing, None, None).await?;
        job::mark(of.store, tx, of.job_no, false, ("", of.who)).await?;
        self.reread_and_settle().await
    }

    /// Notes how a clutch pack was laid out.
    async fn lay(mut self, new: &NewLayout) -> ApiResult<CheckView> {
        rules::may_lay(&self.record, &self.spec()?, &new.plates, new.springs)?;
        let who = self.of.who;
        check::lay(self.of.store, &mut self.tx, &self.record, new, who).await?;
        self.reread_and_settle().await
    }

    /// Notes how the shims lie at the ends of a selector's shaft. Moved, they are the same shims shared out anew, and a new
    /// round of measuring begins.
    async fn say_shims(mut self, new: &ShimsInput) -> ApiResult<CheckView> {
        let found = if new.moved {
            Some(self.assess()?)
        } else {
            None
        };
        let said = self
            .record
            .shims_of(&self.spec()?, new, found.as_ref(), self.by())?;
        if said.moved {
            self.record.head.round += 1;
        }
        check::say_shims(self.of.store, &mut self.tx, &self.record, &said).await?;
        self.reread_and_settle().await
    }
}
