//! What is done to a check.

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::refusal::Refusal;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{self, Sign};
use anvil_rules::job::act::{Act, Undoing};
use anvil_rules::job::check::act::{CheckAct, NewLayout, NewReading};
use anvil_rules::job::check::methods::own_scatter_of;
use anvil_rules::job::check::record::{
    BiasDecision, Mark, ReadingMark, ReadingRecord, ShimsEntry, SignAct, Signing, TargetOverride,
};
use anvil_rules::job::check::rules;
use anvil_rules::job::check::shims::ShimsInput;
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::target::TargetOverrideInput;

use super::By;
use crate::commands::LockedCheck;
use crate::db::check::{self, CheckStatus, NewAssembly};
use crate::db::job;
use crate::http::problem::ApiResult;
use crate::queries::CheckRef;
use crate::queries::predictions::{self, PastOfCheck};
use crate::views::check::CheckView;

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
    let past = past.as_ref();
    let done = LockedCheck::once(of, by.key, act, |held| async move {
        held.does(by, act, past).await
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
    async fn does(
        self,
        by: &By<'_>,
        act: &CheckAct,
        past: Option<&PastOfCheck>,
    ) -> ApiResult<CheckView> {
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
            CheckAct::Usual { counts } => self.decide_bias(*counts, past).await,
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
        let taken = new.entry.read_for(new.way, new.unit)?;
        let gauge_key = rules::may_read(
            &self.record,
            &self.spec()?,
            new.way,
            &taken,
            new.gauge_key.as_deref(),
        )?;
        let reading = ReadingRecord {
            reading_no: self.record.readings.last().map_or(1, |r| r.reading_no + 1),
            round: self.record.head.round,
            typed: new.entry.text(),
            bench_unit: new.unit,
            way: new.way,
            taken,
            gauge_key,
            who: self.of.who.to_owned(),
            at: self.at,
        };
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
        let said = Mark {
            reading_no,
            mark,
            reason: rules::may_mark(&self.record, reading_no, mark, why)?,
            who: self.of.who.to_owned(),
            at: self.at,
        };
        check::mark_reading(self.of.store, &mut self.tx, &self.record, &said).await?;
        self.record.marks.push(said);
        self.settle().await
    }

    /// Says what is fitted now.
    async fn say_fitted(mut self, typed: &str, unit: Unit) -> ApiResult<CheckView> {
        let fitted = notation::parse(typed, Some(unit), Sign::NotNegative)
            .map_err(|e| Refusal::field("fitted", e))?;
        rules::may_say_fitted(&self.record, fitted)?;
        let who = self.of.who;
        check::say_fitted(self.of.store, &mut self.tx, &self.record, fitted, who).await?;
        self.record.head.fitted_nm = Some(fitted.nm());
        self.reread_and_settle().await
    }

    /// Says where to aim on this job, with the reason.
    async fn override_target(mut self, asked: &TargetOverrideInput) -> ApiResult<CheckView> {
        let reason = asked.reason()?;
        rules::may_change(&self.record)?;
        let own = asked.resolve(&Spec::of(&self.sheet, self.of.key)?)?;
        let said = TargetOverride {
            as_sheet: own.is_none(),
            low_nm: own.and_then(|o| o.0.low()).map(Length::nm),
            high_nm: own.and_then(|o| o.0.high()).map(Length::nm),
            aim_from_nm: own.map(|o| o.1.from_nm),
            aim_to_nm: own.map(|o| o.1.to_nm),
            reason,
            who: self.of.who.to_owned(),
            at: self.at,
        };
        check::say_aim(self.of.store, &mut self.tx, &self.record, &said).await?;
        self.reread_and_settle().await
    }

    /// Says that the usual difference of boxes before counts here, or no longer does.
    async fn decide_bias(
        mut self,
        counts: bool,
        past: Option<&PastOfCheck>,
    ) -> ApiResult<CheckView> {
        rules::may_change(&self.record)?;
        let found = past
            .and_then(|p| p.usual.as_ref())
            .ok_or_else(rules::too_few_boxes)?;
        let said = BiasDecision {
            counts,
            mean_nm: found.mean_nm,
            u_nm: found.u_nm,
            dof: found.dof,
            boxes: i32::try_from(found.boxes).unwrap_or(i32::MAX),
            who: self.of.who.to_owned(),
            at: self.at,
        };
        check::say_usual(self.of.store, &mut self.tx, &self.record, &said).await?;
        self.reread_and_settle().await
    }

    /// Signs it off.
    async fn sign(mut self, why: &str) -> ApiResult<CheckView> {
        let found = self.assess()?;
        let reason = rules::may_sign(&self.record, &self.spec()?, &found, why)?;
        let scatter = {
            let counted = self.record.counted(&self.spec()?);
            found.method.and_then(|m| own_scatter_of(&counted, m))
        };
        let estimate = found.estimate.as_ref();
        let signing = Signing {
            act: SignAct::Signed,
            call: found.call,
            achieved_nm: estimate.map(|e| e.clearance_nm),
            chance: found.chance(),
            way: found.method,
            achieved_n_m: found.torque.as_ref().map(|t| t.torque_n_m),
            gauge_key: scatter.as_ref().map(|s| s.0.clone()),
            squares: scatter.as_ref().map(|s| s.1),
            scatter_dof: scatter.as_ref().map(|s| s.2),
            reason,
            who: self.of.who.to_owned(),
            at: self.at,
        };
        let u = estimate.map(|e| (e.u_nm, e.dof));
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
        let laid = NewAssembly {
            plates: new.plates.clone(),
            soaked: new.soaked,
            springs: new.springs,
        };
        let who = self.of.who;
        check::lay(self.of.store, &mut self.tx, &self.record, &laid, who).await?;
        self.reread_and_settle().await
    }

    /// Notes how the shims lie at the ends of a selector's shaft. Moved, they are the same shims shared out anew, and a new
    /// round of measuring begins.
    async fn say_shims(mut self, new: &ShimsInput) -> ApiResult<CheckView> {
        let (left_nm, right_nm) = new.read()?;
        rules::may_say_shims(&self.record, &self.spec()?)?;
        let mut said = ShimsEntry {
            left_nm,
            right_nm,
            moved: new.moved,
            predicted_nm: None,
            who: self.of.who.to_owned(),
            at: self.at,
        };
        if new.moved {
            let leaves = self.record.shared_out(&self.assess()?, &said)?;
            said.predicted_nm = Some(leaves);
            self.record.head.round += 1;
        }
        check::say_shims(self.of.store, &mut self.tx, &self.record, &said).await?;
        self.reread_and_settle().await
    }
}
