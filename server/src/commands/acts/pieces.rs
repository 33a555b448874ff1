//! Pieces that are chosen for a check, go in, and come out.

use anvil_arithmetic::choose::SizeCount;
use anvil_arithmetic::refusal::Ruled;
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::units::length::Length;
use anvil_rules::job::check::act::{GroundPiece, NewPieces};
use anvil_rules::job::check::record::{Record, Setting, SettingState, Signing};
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::{offering, rules};
use anvil_rules::sheet::Check;
use anvil_rules::shop::drawers::{self, StockChange};

use crate::commands::LockedCheck;
use crate::commands::drawers::NewPiece;
use crate::db::check::{self, Bump, CheckStatus};
use crate::db::{Store, Tx, drawer};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::ApiResult;
use crate::queries::CheckRef;
use anvil_rules::job::check::view::CheckView;

impl LockedCheck<'_> {
    /// Sets pieces aside.
    pub(super) async fn choose_and_settle(mut self, new: &NewPieces) -> ApiResult<CheckView> {
        self.choose(new).await?;
        self.reread_and_settle().await
    }

    /// Takes in a piece that was ground to size: it is a line of its own in the drawer, chosen, and fitted.
    pub(super) async fn take_ground(
        mut self,
        key: &IdempotencyKey,
        piece: &GroundPiece,
    ) -> ApiResult<CheckView> {
        let measured = drawers::thickness("measured", &piece.measured, piece.unit)?;
        let fitted = self.record.head.fitted_nm.map(Length::from_nm);
        drawers::may_grind(piece.marked_nm.or(fitted), measured)?;
        let family = self.spec()?.family().unwrap_or_default().to_owned();
        let grade = match piece.marked_nm {
            Some(_) => Grade::Miked,
            None => Grade::Used,
        };
        let own = NewPiece {
            line: drawer::Line {
                family: &family,
                thickness_nm: measured.nm(),
                grade,
            },
            marked_nm: piece.marked_nm,
            gauge_key: piece.gauge_key.as_deref(),
            place: "",
            reason: "ground",
        };
        own.put_in(self.of.store, &mut self.tx, (key, self.of.who))
            .await?;
        self.reread().await?;
        let one = SizeCount {
            thickness_nm: measured,
            grade,
            count: 1,
        };
        self.choose(&NewPieces {
            pieces: vec![one],
            family_key: None,
            out_nm: None,
            stays: false,
        })
        .await?;
        self.reread().await?;
        self.fit(piece.put_back && piece.marked_nm.is_some())
            .await?;
        self.reread_and_settle().await
    }

    /// Lets the chosen pieces go, back to the drawer.
    pub(super) async fn let_go(mut self) -> ApiResult<CheckView> {
        self.end_setting(SettingState::LetGo).await?;
        self.reread_and_settle().await
    }

    /// Notes the chosen pieces as fitted; a new round of measuring begins. Where `put_back`, the pieces that came out are
    /// sound and go back in the drawer.
    pub(super) async fn fit_and_settle(mut self, put_back: bool) -> ApiResult<CheckView> {
        self.fit(put_back).await?;
        self.reread_and_settle().await
    }

    /// Says that what was noted as fitted was not: the pieces are chosen again, as they were.
    pub(super) async fn undo_fit(mut self) -> ApiResult<CheckView> {
        let (fitted, again) = self.record.unfitted(self.by())?;
        self.move_others_back(&fitted).await?;
        let who = self.of.who;
        check::undo_fitting(self.of.store, &mut self.tx, &self.record, &fitted, who).await?;
        if !check::choose(self.of.store, &mut self.tx, &self.record, &again).await? {
            return Err(rules::stock_taken().into());
        }
        self.record.head.round -= 1;
        if self.spec()?.family() == Some(again.family_key.as_str()) {
            self.record.head.fitted_nm = Some(again.fitted_before_nm);
        }
        self.reread_and_settle().await
    }

    /// Sets pieces aside.
    async fn choose(&mut self, new: &NewPieces) -> ApiResult<()> {
        let asked = offering::NewSetting {
            pieces: &new.pieces,
            instead_of: new.instead_of()?,
            stays: new.stays,
            who: self.of.who,
            at: self.at,
        };
        let setting = self
            .record
            .setting_of(&self.spec()?, &self.assess()?, &asked)?;
        if !check::choose(self.of.store, &mut self.tx, &self.record, &setting).await? {
            return Err(rules::stock_taken().into());
        }
        Ok(())
    }

    /// Notes what is chosen as fitted.
    async fn fit(&mut self, put_back: bool) -> ApiResult<()> {
        let out = self.record.comes_out(self.spec()?.family());
        let out = out.filter(|_| put_back).cloned();
        let setting = self.end_setting(SettingState::Fitted).await?;
        for piece in out.iter().flat_map(|s| &s.pieces) {
            let line = drawer::Line {
                family: &setting.family_key,
                thickness_nm: piece.thickness_nm,
                grade: piece.grade,
            };
            let noted = drawer::Noted {
                check: Some((self.of.job_no, self.of.key)),
                ..drawer::Noted::of(line, (0, 0), StockChange::PutBack, self.of.who)
            };
            drawer::change(self.of.store, &mut self.tx, noted, (piece.count, 0)).await?;
        }
        self.record.head.round += 1;
        if self.spec()?.family() == Some(setting.family_key.as_str()) {
            self.record.head.fitted_nm = Some(setting.total_nm);
        }
        self.move_others().await
    }

    /// Ends the choice that is open.
    async fn end_setting(&mut self, state: SettingState) -> ApiResult<Setting> {
        let setting = rules::may_end_setting(&self.record, state)?.clone();
        let who = self.of.who;
        check::end_setting(
            self.of.store,
            &mut self.tx,
            &self.record,
            &setting,
            state,
            who,
        )
        .await?;
        Ok(setting)
    }

    /// Notes that pieces fitted here moved other checks: what was measured there before is of an
    /// earlier round.
    async fn move_others(&mut self) -> ApiResult<()> {
        self.round_of_others(1, rules::is_moved_on).await
    }

    /// Takes the rounds back that pieces fitted here began of other checks.
    async fn move_others_back(&mut self, fitted: &Setting) -> ApiResult<()> {
        self.round_of_others(-1, |record, name| {
            rules::is_moved_back(record, name, fitted)
        })
        .await
    }

    /// Moves the checks that pieces here move to another round, where `is_moved` says so of their record and name.
    async fn round_of_others(
        &mut self,
        by: i32,
        is_moved: impl Fn(&Record, &str) -> Ruled<bool>,
    ) -> ApiResult<()> {
        let moved = |c: &&Check| c.moved_by.iter().any(|m| m.check == self.of.key);
        let others: Vec<&Check> = self.sheet.checks.iter().filter(moved).collect();
        for other in others {
            let spec = Spec::of(&self.sheet, &other.key)?;
            let record = other_record(&self.of, &mut self.tx, &spec).await?;
            if is_moved(&record, &other.name)? {
                to_round(self.of.store, &mut self.tx, record, spec, by).await?;
            }
        }
        Ok(())
    }

    /// Asks again, in a new round, what is to be asked after this check; what was signed of it is reopened.
    pub(super) async fn ask_again(&mut self) -> ApiResult<()> {
        let this = self.of.key;
        let again = |c: &&Check| {
            let proof = c.proof.as_ref();
            proof.is_some_and(|p| p.again_after.iter().any(|key| key == this))
        };
        let name = self.spec()?.check.name.clone();
        for other in self.sheet.checks.iter().filter(again) {
            let spec = Spec::of(&self.sheet, &other.key)?;
            let mut record = other_record(&self.of, &mut self.tx, &spec).await?;
            let Some(why) = rules::asked_again(&record, &name) else {
                continue;
            };
            let store = self.of.store;
            if record.signature().is_some() {
                let reopened = Signing::reopened(why, self.of.who, self.at);
                check::sign(store, &mut self.tx, &record, &reopened, None, None).await?;
                record.signings.push(reopened);
            }
            to_round(store, &mut self.tx, record, spec, 1).await?;
        }
        Ok(())
    }
}

/// Another check of the same job, as it stands; the job is held.
async fn other_record(of: &CheckRef<'_>, tx: &mut Tx, spec: &Spec<'_>) -> ApiResult<Record> {
    let of = CheckRef {
        key: &spec.check.key,
        ..*of
    };
    let head = check::head(of.store, &mut **tx, of.job_no, of.key).await?;
    of.record_held(tx, head, spec).await
}

/// Puts another check so many rounds on, or back.
async fn to_round(
    store: &Store,
    tx: &mut Tx,
    mut record: Record,
    spec: Spec<'_>,
    by: i32,
) -> ApiResult<()> {
    record.head.round += by;
    let found = record.assess(&spec.on_job(&record))?;
    let status = CheckStatus::of(&record, &found);
    check::settle(store, tx, &record, &status, Bump::Always).await?;
    Ok(())
}
