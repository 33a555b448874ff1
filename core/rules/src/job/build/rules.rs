//! What may be said to have been done.

use anvil_arithmetic::refusal::{Refusal, Ruled};

use super::shift_test::{NEUTRAL, Turns};
use super::{Build, BuildAct, HoldOf, Next, StepDone, StepState, said};
use crate::texts::shown;

/// A torque that is off by more than this share of what the sheet says has a reason.
const TORQUE_OFF: f64 = 0.1;

impl Build<'_> {
    /// Takes what somebody did, with its texts trimmed.
    ///
    /// # Errors
    /// Where it cannot be so as the build stands, or a reason is wanted that is not there.
    pub fn taken(&self, act: &BuildAct) -> Ruled<BuildAct> {
        match act {
            BuildAct::Began { step } => {
                let at = self.open_step(step)?;
                if self.step(at).wait.is_none() {
                    return Err(Refusal::conflict(
                        "takes-no-time",
                        "This step takes no time of its own: say that it is done.",
                    ));
                }
                if self.minutes_left(at).is_some() {
                    return Err(Refusal::conflict(
                        "begun-already",
                        "It was begun already, and its time runs.",
                    ));
                }
                Ok(act.clone())
            }
            BuildAct::Done(done) => self.done(done).map(BuildAct::Done),
            BuildAct::Skipped { step, why } => {
                let at = self.place(step)?;
                self.not_tearing()?;
                self.not_done(at)?;
                Ok(BuildAct::Skipped {
                    step: step.clone(),
                    why: reason(why, "Say why it is left out on this box.")?,
                })
            }
            BuildAct::NotDone { step } => {
                self.may_say_not_done(step)?;
                Ok(act.clone())
            }
            BuildAct::Out { step, why } => self.out(step, why),
            BuildAct::Proved { step, ask, .. } => {
                let at = self.place(step)?;
                let of = HoldOf::Proof {
                    step: step.clone(),
                    ask: ask.clone(),
                };
                self.hold_there(&of)?;
                if !self.is_done(at) {
                    return Err(Refusal::conflict(
                        "not-done",
                        "It is asked once the step is done.",
                    ));
                }
                Ok(act.clone())
            }
            BuildAct::Shifted { gear, turns } => {
                if gear != NEUTRAL && self.sheet.gears.iter().all(|g| g.name != *gear) {
                    return Err(Refusal::missing(format!(
                        "The sheet of this box has no gear “{gear}”."
                    )));
                }
                if let Some(turns) = turns {
                    turns_taken(*turns)?;
                }
                Ok(act.clone())
            }
            BuildAct::PassedOver { hold, why } => {
                let open = self.hold_there(hold)?;
                if !open {
                    return Err(Refusal::conflict(
                        "not-open",
                        "It holds nothing any more: it is signed, answered or passed over.",
                    ));
                }
                Ok(BuildAct::PassedOver {
                    hold: hold.clone(),
                    why: reason(why, "Say why it is passed over.")?,
                })
            }
            BuildAct::NotPassedOver { .. }
            | BuildAct::NotAnswered { .. }
            | BuildAct::NotTried { .. } => {
                self.was_said(act)?;
                Ok(act.clone())
            }
            BuildAct::TornBack { to, why } => self.torn_back(to, why),
            BuildAct::LeftOff {} => {
                if self.tearing().is_none() {
                    return Err(Refusal::conflict(
                        "not-tearing",
                        "The box is not being taken apart.",
                    ));
                }
                Ok(act.clone())
            }
        }
    }

    fn torn_back(&self, to: &str, why: &str) -> Ruled<BuildAct> {
        let at = self.place(to)?;
        self.not_tearing()?;
        if self.comes_out(at).is_empty() {
            return Err(Refusal::conflict(
                "nothing-out",
                "Nothing has to come out for it: it can be got at as it is.",
            ));
        }
        Ok(BuildAct::TornBack {
            to: to.to_owned(),
            why: reason(why, "Say why the box is taken apart again.")?,
        })
    }

    /// What is taken back by a slip was said.
    fn was_said(&self, slip: &BuildAct) -> Ruled<()> {
        let (said, case, message) = match slip {
            BuildAct::NotPassedOver { hold } => (
                self.standing.passed.iter().any(|(of, _)| of == hold),
                "not-passed-over",
                "Nobody has passed over it: there is nothing to take back.",
            ),
            BuildAct::NotAnswered { step, ask } => (
                self.standing
                    .answers
                    .contains_key(&(step.clone(), ask.clone())),
                "not-answered",
                "Nobody has answered that: there is nothing to take back.",
            ),
            BuildAct::NotTried { gear } => (
                self.standing.shifted.contains_key(gear),
                "not-tried",
                "Nobody has tried that gear: there is nothing to take back.",
            ),
            _ => return Ok(()),
        };
        if said {
            Ok(())
        } else {
            Err(Refusal::conflict(case, message))
        }
    }

    fn not_tearing(&self) -> Ruled<()> {
        match self.tearing() {
            Some(tearing) => Err(Refusal::conflict(
                "taking-apart",
                format!(
                    "The box is being taken apart to get at “{}”: go on with that, or leave off first.",
                    tearing.what
                ),
            )),
            None => Ok(()),
        }
    }

    fn not_done(&self, at: usize) -> Ruled<()> {
        if !self.is_done(at) {
            return Ok(());
        }
        let record = self.standing.steps.get(&self.step(at).key);
        let done = record.and_then(|r| r.done.as_ref());
        let by = done.map_or_else(String::new, |(_, who, _)| format!(" by {who}"));
        Err(Refusal::conflict(
            "done-already",
            format!("This step is done already{by}. To do it again, take it out first."),
        ))
    }

    /// A step that can be done as things stand.
    fn open_step(&self, key: &str) -> Ruled<usize> {
        let at = self.place(key)?;
        self.not_tearing()?;
        self.not_done(at)?;
        let names = self.waits_for(at);
        let list = |before: &str| {
            let quoted: Vec<String> = names.iter().map(|n| format!("“{n}”")).collect();
            format!("{before}{}", quoted.join(", "))
        };
        let (case, message) = match self.state(at) {
            StepState::Later => ("needs-first", list("Not done yet, and it rests on that: ")),
            StepState::Held => (
                "held",
                list("Held until these are signed, answered or passed over: "),
            ),
            StepState::OutOfReach => (
                "out-of-reach",
                list("Nobody can get at it any more; take out first: "),
            ),
            _ => return Ok(at),
        };
        Err(Refusal::conflict(case, message))
    }

    fn done(&self, done: &StepDone) -> Ruled<StepDone> {
        let at = self.open_step(&done.step)?;
        let step = self.step(at);
        let said = StepDone {
            step: done.step.clone(),
            why: short("why", &done.why)?,
            way: short("way", &done.way)?,
            left_over: done.left_over,
            wrench: short("wrench", &done.wrench)?,
            torque_n_m: done.torque_n_m,
            note: short("note", &done.note)?,
        };
        let why = |message: String| {
            if said.why.is_empty() {
                Err(Refusal::field("why", message))
            } else {
                Ok(())
            }
        };
        if !said.way.is_empty() && !step.alternatives.contains(&said.way) {
            return Err(Refusal::field(
                "way",
                "The sheet has no such way of doing it: take one of its own.",
            ));
        }
        let count = step
            .loose
            .as_ref()
            .map(crate::sheet::Loose::in_all)
            .or(step.count);
        if let (Some(count), Some(over)) = (count, said.left_over)
            && over > 0
        {
            if over > count {
                return Err(Refusal::field(
                    "left_over",
                    format!("{count} were laid out: no more can be left over."),
                ));
            }
            why(format!(
                "{over} of {count} left over: one is missing in the row, or one too many was laid out. Count again, or say why it is so."
            ))?;
        }
        self.torque(at, said.torque_n_m, &why)?;
        if step.wait.is_some() {
            match self.minutes_left(at) {
                None => why("Its time was not begun: begin it, or say why it needs none.".into())?,
                Some(left) if left > 0.5 => why(format!(
                    "Its time is not up, {left:.0} min are left: wait, or say why it is enough."
                ))?,
                Some(_) => {}
            }
        }
        if let Some(first) = self.before_in_order(at) {
            let first = &self.step(first).what;
            why(format!(
                "By the sheet “{first}” comes first: say why this is done before it."
            ))?;
        }
        Ok(said)
    }

    fn torque(&self, at: usize, n_m: Option<f64>, why: &impl Fn(String) -> Ruled<()>) -> Ruled<()> {
        let Some(n_m) = n_m else { return Ok(()) };
        if !(n_m.is_finite() && n_m > 0.0 && n_m <= 1_000.0) {
            return Err(Refusal::field(
                "torque_n_m",
                "A torque lies above nothing and up to 1000 N·m.",
            ));
        }
        let wanted = self.step(at).last_torque_n_m();
        match wanted {
            Some(wanted) if (n_m - wanted).abs() > TORQUE_OFF * wanted => why(format!(
                "The sheet says {wanted} N·m, and this is {n_m} N·m: say why."
            )),
            _ => Ok(()),
        }
    }

    /// The ready step that comes before this one by the sheet; while something takes its time, whatever is ready is in
    /// order.
    fn before_in_order(&self, at: usize) -> Option<usize> {
        let begun = |step| !self.is_done(step) && self.minutes_left(step).is_some();
        let waits = (0..self.sheet.build.len()).any(begun);
        self.ready().next().filter(|first| *first < at && !waits)
    }

    fn out(&self, key: &str, why: &str) -> Ruled<BuildAct> {
        let at = self.on_record(key)?;
        match self.next() {
            Next::Out { step } if step != at => {
                return Err(Refusal::conflict(
                    "comes-first",
                    format!("“{}” comes out first.", self.step(step).what),
                ));
            }
            _ => {}
        }
        self.nothing_rests_on(at)?;
        Ok(BuildAct::Out {
            step: key.to_owned(),
            why: short("why", why)?,
        })
    }

    /// What was said last of a step may be said to have been a slip.
    ///
    /// # Errors
    /// Where nothing was said of it, the box is being taken apart, or something that is done rests on it.
    pub(super) fn may_say_not_done(&self, key: &str) -> Ruled<()> {
        let at = self.on_record(key)?;
        self.not_tearing()?;
        self.nothing_rests_on(at)
    }

    /// A step of which something is on record: what was begun can be taken out of the oven again.
    fn on_record(&self, key: &str) -> Ruled<usize> {
        let at = self.place(key)?;
        if !self.is_done(at) && !self.standing.steps.contains_key(key) {
            return Err(Refusal::conflict(
                "not-done",
                "This step is not done: there is nothing to take out.",
            ));
        }
        Ok(at)
    }

    fn nothing_rests_on(&self, at: usize) -> Ruled<()> {
        if !self.graph.is_rested_on(&self.in_place, at) {
            return Ok(());
        }
        let over: Vec<String> = self
            .graph
            .tear_back(&self.in_place, at)
            .into_iter()
            .map(|s| format!("“{}”", self.step(s).what))
            .collect();
        Err(Refusal::conflict(
            "rests-on-it",
            format!(
                "Steps that are done rest on it or lie over it: {}. Take the box back to it instead.",
                over.join(", ")
            ),
        ))
    }

    /// Whether a hold is open; it has to be one of this build.
    fn hold_there(&self, of: &HoldOf) -> Ruled<bool> {
        let hold = self.holds.iter().find(|h| h.of == *of);
        hold.map(|h| h.open).ok_or_else(|| {
            Refusal::missing(format!(
                "The build of this job has no hold “{}”: it may be on another revision.",
                self.name_of_hold(of)
            ))
        })
    }

    /// How many of its steps are neither done nor left out, and how many it has.
    #[must_use]
    pub fn steps_open(&self) -> (usize, usize) {
        let all = self.sheet.build.len();
        (all - self.order.len(), all)
    }

    /// The questions after steps that are done which are not answered as they should be.
    #[must_use]
    pub fn unanswered(&self) -> Vec<String> {
        let asked = self.stopping().filter(|h| h.ask.is_some());
        asked.map(|h| self.name_of_hold(&h.of)).collect()
    }

    /// What an act says, in a line for the log.
    #[must_use]
    pub fn line_of(&self, act: &BuildAct) -> String {
        let what = |key: &String| {
            let at = self.places.get(key.as_str());
            at.map_or_else(|| key.clone(), |at| self.step(*at).what.clone())
        };
        match act {
            BuildAct::Began { step } => format!("begun: {}", what(step)),
            BuildAct::Done(done) => {
                let extra = [&done.way, &done.why, &done.note];
                let extra: Vec<&str> = extra
                    .into_iter()
                    .filter(|t| !t.is_empty())
                    .map(String::as_str)
                    .collect();
                let line = format!("done: {}", what(&done.step));
                if extra.is_empty() {
                    line
                } else {
                    format!("{line} ({})", extra.join("; "))
                }
            }
            BuildAct::Skipped { step, why } => format!("left out: {} ({why})", what(step)),
            BuildAct::NotDone { step } => format!("a slip, not so: {}", what(step)),
            BuildAct::Out { step, .. } => format!("out again: {}", what(step)),
            BuildAct::Proved { ask, answer, .. } => format!("{ask} {}", said(*answer)),
            BuildAct::Shifted { gear, turns: None } => format!("{gear}: as it should"),
            BuildAct::Shifted {
                gear,
                turns: Some(t),
            } => format!("{gear}: {} turns in, {} out", t.turns_in, t.turns_out),
            BuildAct::PassedOver { hold, why } => {
                format!("passed over: {} ({why})", self.name_of_hold(hold))
            }
            BuildAct::NotPassedOver { hold } => {
                format!("a slip, not passed over: {}", self.name_of_hold(hold))
            }
            BuildAct::NotAnswered { ask, .. } => format!("a slip, not answered: {ask}"),
            BuildAct::NotTried { gear } => format!("a slip, not tried: {gear}"),
            BuildAct::TornBack { to, why } => format!("taken apart to: {} ({why})", what(to)),
            BuildAct::LeftOff {} => "not taken apart any further".into(),
        }
    }
}

/// More turns than this nobody counts.
const MOST_TURNS: f64 = 200.0;

/// Turns that can have been counted.
fn turns_taken(turns: Turns) -> Ruled<()> {
    if !(turns.turns_in > 0.0 && turns.turns_in <= MOST_TURNS) {
        return Err(Refusal::field(
            "turns_in",
            format!("Turn the input by more than nothing, and by up to {MOST_TURNS} turns."),
        ));
    }
    if !turns.turns_out.is_finite() || turns.turns_out.abs() > MOST_TURNS {
        return Err(Refusal::field(
            "turns_out",
            format!(
                "The output turns by up to {MOST_TURNS} turns; below zero where it turns against the input."
            ),
        ));
    }
    if !(turns.within > 0.0 && turns.within <= 1.0) {
        return Err(Refusal::field(
            "within",
            "The output may be off by more than nothing, and by up to a turn.",
        ));
    }
    Ok(())
}

/// A text of up to so many characters.
const LONGEST: usize = 300;

fn short(field: &'static str, text: &str) -> Ruled<String> {
    let text = shown(text);
    if text.chars().count() > LONGEST {
        return Err(Refusal::field(
            field,
            format!("This may have up to {LONGEST} characters: shorten it."),
        ));
    }
    Ok(text.to_owned())
}

fn reason(why: &str, wanted: &str) -> Ruled<String> {
    let why = short("why", why)?;
    if why.is_empty() {
        return Err(Refusal::field("why", wanted));
    }
    Ok(why)
}
