//! Checks: where they lie, what they are held to, what sets them.

use std::collections::BTreeMap;

use anvil_arithmetic::choose::harm::Harm;
use anvil_arithmetic::choose::required::{Effect, MOST_EFFECT};
use anvil_arithmetic::materials::thermal::{MOST_BEARING_C, RANGE_C};
use anvil_arithmetic::measure::limited_gaps::HEAVIEST;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::written::Written;

use super::Faults;
use crate::sheet::backlash::Backlash;
use crate::sheet::chart::{self, Chart};
use crate::sheet::fit::{FURTHEST_APART, could_fit};
use crate::sheet::{Check, CheckKind, Method, ProofSays, SelectorGear, SetBy, Sheet};

impl Faults {
    pub(super) fn checks(&mut self, sheet: &Sheet, shaft_of: &BTreeMap<&str, usize>) {
        self.unique(
            "check",
            sheet
                .checks
                .iter()
                .enumerate()
                .map(|(i, c)| (format!("/checks/{i}/key"), c.key.as_str())),
        );
        for (i, check) in sheet.checks.iter().enumerate() {
            let place = format!("/checks/{i}");
            self.check_place(&place, check, shaft_of);
            self.check_window(&place, check, sheet);
            self.check_setting(&place, check, sheet, shaft_of);
            self.check_or_set_by(&place, check, sheet);
            self.check_one_by_one(&place, check);
            self.check_selector(&place, check);
            self.check_known_shim(&place, check);
            self.check_seat(&place, check);
            self.check_fit(&place, check);
            self.check_harm(&place, check);
            self.check_backlash(&place, check);
            for (a, adjustment) in check.adjustments.iter().enumerate() {
                self.not_negative(
                    format!("{place}/adjustments/{a}/tolerance"),
                    "a tolerance (a ± figure)",
                    adjustment.tolerance.as_ref(),
                );
            }
            self.check_stack(&place, check, sheet, shaft_of);
            self.check_moved_by(&place, check, sheet);
            self.check_rests_on(&place, check, sheet);
            self.check_hot(&place, check);
            if let Some(chart) = &check.chart {
                for fault in chart::faults(&chart.lengths(), chart.resolution.length()) {
                    let row = fault.row.checked_sub(1).map(|r| format!("/rows/{r}"));
                    let place = format!("{place}/chart{}", row.unwrap_or_default());
                    self.add(place, fault.message);
                }
            }
        }
        let waits: Vec<_> = sheet
            .checks
            .iter()
            .map(|c| (c.key.as_str(), c.after.as_slice()))
            .collect();
        self.order("check", &waits, |i, a| format!("/checks/{i}/after/{a}"));
    }

    pub(super) fn check_place(
        &mut self,
        place: &str,
        check: &Check,
        shaft_of: &BTreeMap<&str, usize>,
    ) {
        let Some(between) = &check.between else {
            return;
        };
        let shafts: Vec<_> = between
            .iter()
            .enumerate()
            .filter_map(|(b, part)| {
                let shaft = shaft_of.get(part.as_str());
                if shaft.is_none() {
                    self.add(
                        format!("{place}/between/{b}"),
                        format!("no part has the key “{part}”"),
                    );
                }
                shaft
            })
            .collect();
        if shafts.len() == 2 && shafts[0] != shafts[1] {
            self.add(
                format!("{place}/between"),
                "the two parts are on different shafts: a check lies on one",
            );
        }
        if between[0] == between[1] {
            self.add(
                format!("{place}/between"),
                "the two parts are the same: name the ones left and right of the gap",
            );
        }
    }

    pub(super) fn check_stack(
        &mut self,
        place: &str,
        check: &Check,
        sheet: &Sheet,
        shaft_of: &BTreeMap<&str, usize>,
    ) {
        for (t, term) in check.stack.iter().enumerate() {
            let place = format!("{place}/stack/{t}");
            self.more_than_nothing(format!("{place}/length"), "a term's length", &term.length);
            if let Some(tolerance) = &term.tolerance {
                self.more_than_nothing(
                    format!("{place}/tolerance"),
                    "a tolerance (a ± figure; nothing made is exact)",
                    tolerance,
                );
            }
            if let Some(part) = term.part.as_deref().filter(|p| !shaft_of.contains_key(p)) {
                self.add(
                    format!("{place}/part"),
                    format!("no part has the key “{part}”"),
                );
            }
        }
        if check.method == Method::StackSum && sheet.terms_of(check).is_empty() {
            self.add(
                format!("{place}/stack"),
                "a check taken by stack sum needs its terms",
            );
        }
    }

    pub(super) fn check_hot(&mut self, place: &str, check: &Check) {
        let Some(hot) = &check.hot else {
            return;
        };
        let mut sums = Vec::new();
        for (side, parts) in [("case", &hot.case), ("inside", &hot.inside)] {
            for (p, part) in parts.iter().enumerate() {
                let place = format!("{place}/hot/{side}/{p}/length");
                self.more_than_nothing(place, "a part's length", &part.length);
            }
            sums.push(parts.iter().map(|p| p.length.length().nm()).sum::<i64>());
        }
        if let Some(at) = hot.window_at {
            let (coldest, _) = RANGE_C;
            for (field, c) in [("case_c", at.case_c), ("inside_c", at.inside_c)] {
                if !(coldest..=MOST_BEARING_C).contains(&c) {
                    self.add(
                        format!("{place}/hot/window_at/{field}"),
                        format!("a box at work is from {coldest} to {MOST_BEARING_C} °C: hotter, no bearing bears it"),
                    );
                }
            }
        }
        if (sums[0] - sums[1]).abs() > sums[0] / 10 {
            self.add(
                format!("{place}/hot"),
                format!(
                    "the case is {} long and what it holds {}: side by side they span the same, within a tenth",
                    Length::from_nm(sums[0]),
                    Length::from_nm(sums[1])
                ),
            );
        }
    }

    pub(super) fn check_moved_by(&mut self, place: &str, check: &Check, sheet: &Sheet) {
        for (m, moved) in check.moved_by.iter().enumerate() {
            let effect = moved.effect.abs();
            if !(effect > 0.0 && effect <= MOST_EFFECT) {
                self.add(
                    format!("{place}/moved_by/{m}/effect"),
                    format!(
                        "a piece moves another gap by some part of its thickness: from −{MOST_EFFECT} to {MOST_EFFECT}, and not 0"
                    ),
                );
            }
            let place = format!("{place}/moved_by/{m}/check");
            let key = &moved.check;
            let twice = check.moved_by[..m].iter().any(|o| o.check == *key);
            match sheet.check(key) {
                _ if *key == check.key => {
                    self.add(
                        place,
                        "its own pieces are named in set_by; name another check here",
                    );
                }
                _ if twice => self.add(place, format!("“{key}” is named twice: keep one")),
                None => self.add(place, format!("no check has the key “{key}”")),
                Some(other) if other.set_by.is_none() => self.add(
                    place,
                    format!("no pieces set “{key}”, so none of them moves this check"),
                ),
                Some(_) => {}
            }
        }
    }

    pub(super) fn check_window(&mut self, place: &str, check: &Check, sheet: &Sheet) {
        if check.kind == CheckKind::PassFail {
            if check.proof.is_none() {
                self.add(
                    format!("{place}/proof"),
                    "a check of yes or no needs its question",
                );
            }
            let again = check.proof.iter().flat_map(|p| &p.again_after);
            for (a, key) in again.enumerate() {
                let place = format!("{place}/proof/again_after/{a}");
                if *key == check.key {
                    self.add(
                        place,
                        "it is not asked again after itself: name another check",
                    );
                } else if sheet.check(key).is_none() {
                    self.add(place, format!("no check has the key “{key}”"));
                }
            }
            let says = check.proof.iter().flat_map(|p| &p.says);
            for (s, says) in says.enumerate() {
                self.check_says(&format!("{place}/proof/says/{s}"), says, sheet);
            }
            if check.method != Method::YesNo {
                self.add(
                    format!("{place}/method"),
                    "a question is answered yes or no: it is taken no other way",
                );
            }
            if check.set_by.is_some() {
                self.add(
                    format!("{place}/set_by"),
                    "no piece answers a question: leave it out",
                );
            }
            return;
        }
        if check.proof.is_some() || check.method == Method::YesNo {
            self.add(
                format!("{place}/kind"),
                "only a check of yes or no has a question: make it of that kind, or leave the question out",
            );
        }
        if check.kind == CheckKind::TurningTorque {
            match check.torque {
                None => self.add(
                    format!("{place}/torque"),
                    "a turning torque needs its window in newton metres",
                ),
                Some(t) if t.low_n_m.is_none() && t.high_n_m.is_none() => {
                    self.add(
                        format!("{place}/torque"),
                        "a window needs at least one limit",
                    );
                }
                Some(t)
                    if t.low_n_m
                        .zip(t.high_n_m)
                        .is_some_and(|(low, high)| low > high) =>
                {
                    self.add(
                        format!("{place}/torque"),
                        "the low limit is above the high limit",
                    );
                }
                Some(_) => {}
            }
            return;
        }
        let Some(book) = &check.window else {
            if check.by_chart() {
                self.check_by_chart(place, check, sheet);
            } else {
                self.add(
                    format!("{place}/window"),
                    "the window is missing: give low, high or both, or a chart and the piece that it asks for",
                );
            }
            return;
        };
        let mut working = None;
        for (name, written) in [
            ("window", Some(book)),
            ("shop_window", check.shop_window.as_ref()),
        ] {
            match written.map(crate::sheet::WrittenWindow::window) {
                Some(Ok(window)) => working = Some(window),
                Some(Err(e)) => self.add(format!("{place}/{name}"), e.to_string()),
                None => {}
            }
        }
        if let Some(Err(e)) = working.map(|w| check.aim(w)) {
            self.add(format!("{place}/target"), e.to_string());
        }
    }

    fn check_says(&mut self, place: &str, says: &ProofSays, sheet: &Sheet) {
        let key = &says.check;
        match sheet.check(key) {
            None => self.add(
                format!("{place}/check"),
                format!("no check has the key “{key}”"),
            ),
            Some(c) if matches!(c.kind, CheckKind::PassFail | CheckKind::TurningTorque) => self
                .add(
                    format!("{place}/check"),
                    format!("“{key}” has no figure of a length for the answer to say anything of"),
                ),
            Some(_) => {}
        }
        let [tighter, looser] =
            [&says.no_tighter, &says.no_looser].map(|l| l.as_ref().map(Written::length));
        match (tighter, looser) {
            (None, None) => self.add(
                format!("{place}/no_tighter"),
                "say how tight or how loose it could be at most for the answer to be so",
            ),
            (Some(tighter), Some(looser)) if tighter > looser => self.add(
                format!("{place}/no_tighter"),
                format!("{tighter} is looser than {looser}: the tighter of the two comes first"),
            ),
            _ => {}
        }
    }

    /// A chart without a window is all that the check is judged by.
    fn check_by_chart(&mut self, place: &str, check: &Check, sheet: &Sheet) {
        let mut without = |field: &str, why: &str| {
            self.add(
                format!("{place}/{field}"),
                format!("{why}: give the window beside the chart, or leave this out"),
            );
        };
        if check.shop_window.is_some() {
            without(
                "shop_window",
                "the shop's own window stands beside a book's",
            );
        }
        if check.harm.is_some() {
            without("harm", "a chart has no worse side");
        }
        if check.hot.is_some() {
            without("hot", "a chart says nothing of warmth");
        }
        if !check.or_set_by.is_empty() {
            without("or_set_by", "a chart asks for one drawer's pieces");
        }
        if !check.moved_by.is_empty() {
            without("moved_by", "a chart asks for one check's piece");
        }
        if sheet
            .pack_of(&check.key)
            .is_some_and(|p| p.sprung() > Length::ZERO)
        {
            without(
                "chart",
                "its pack's wave plate is measured free and judged compressed",
            );
        }
        let Some(window) = check.working_window() else {
            return;
        };
        // Read the wrong way round, a chart leaves twice what its pieces differ by, and more.
        let effect = check.set_by.as_ref().map(SetBy::effect);
        let rows = check.chart.as_ref().map(Chart::lengths).unwrap_or_default();
        let other = match effect {
            Some(Effect::Closes) => Effect::Opens,
            _ => Effect::Closes,
        };
        let width = window.width_nm();
        if let Some((low, high)) = chart::leaves(&rows, other, None)
            && width.is_some_and(|w| (high - low) as f64 <= w / 2.0)
        {
            let message = match other {
                Effect::Opens => {
                    "the chart's pieces get thinner as the depth grows, so a thicker piece opens this: say so at what sets it"
                }
                Effect::Closes => {
                    "the chart's pieces get thicker as the depth grows, so a thicker piece closes this: say so at what sets it"
                }
            };
            self.add(format!("{place}/set_by/effect"), message);
        }
        if let Err(e) = check.aim(window) {
            self.add(format!("{place}/target"), e.to_string());
        }
    }

    pub(super) fn check_setting(
        &mut self,
        place: &str,
        check: &Check,
        sheet: &Sheet,
        shaft_of: &BTreeMap<&str, usize>,
    ) {
        let Some(set_by) = &check.set_by else { return };
        if sheet.family(&set_by.family).is_none() {
            self.add(
                format!("{place}/set_by/family"),
                format!("no family has the key “{}”", set_by.family),
            );
        }
        if set_by.least_pieces > set_by.most_pieces {
            self.add(
                format!("{place}/set_by/least_pieces"),
                "the fewest pieces are more than the most",
            );
        }
        if let Some(part) = set_by.part.as_deref().filter(|p| !shaft_of.contains_key(p)) {
            self.add(
                format!("{place}/set_by/part"),
                format!("no part has the key “{part}”"),
            );
        }
    }

    pub(super) fn check_or_set_by(&mut self, place: &str, check: &Check, sheet: &Sheet) {
        for (o, other) in check.or_set_by.iter().enumerate() {
            let place = format!("{place}/or_set_by/{o}");
            let family = &other.family;
            let first = check.set_by.as_ref().map(|s| &s.family);
            let before = check.or_set_by[..o].iter().map(|o| &o.family);
            if sheet.family(family).is_none() {
                self.add(
                    format!("{place}/family"),
                    format!("no family has the key “{family}”"),
                );
            } else if first.into_iter().chain(before).any(|f| f == family) {
                self.add(
                    format!("{place}/family"),
                    format!("“{family}” sets this check already: name another family"),
                );
            }
            self.more_than_nothing(
                format!("{place}/fitted"),
                "what one of those that are in measures",
                &other.fitted,
            );
            if let Some(part) = &other.part {
                self.part_there(sheet, format!("{place}/part"), part);
            }
        }
        if !check.or_set_by.is_empty() && check.set_by.is_none() {
            self.add(
                format!("{place}/or_set_by"),
                "something else sets it only beside what sets it first: fill in set_by",
            );
        }
    }

    fn check_rests_on(&mut self, place: &str, check: &Check, sheet: &Sheet) {
        for (field, keys) in [("rests_on", &check.rests_on), ("not_on", &check.not_on)] {
            for (k, key) in keys.iter().enumerate() {
                let place = format!("{place}/{field}/{k}");
                if keys[..k].contains(key) {
                    self.add(place, format!("“{key}” is there already"));
                } else if field == "not_on" && check.rests_on.contains(key) {
                    self.add(
                        place,
                        format!(
                            "it rests on “{key}”, or it does not: take it out of one of the two"
                        ),
                    );
                } else {
                    self.part_there(sheet, place, key);
                }
            }
        }
    }

    pub(super) fn check_one_by_one(&mut self, place: &str, check: &Check) {
        match &check.pinions {
            Some(pinions) => self.more_than_nothing(
                format!("{place}/pinions/alike"),
                "how far the pinions may differ",
                &pinions.alike,
            ),
            None if check.method == Method::OneByOne => self.add(
                format!("{place}/pinions"),
                "a check taken one by one needs how many pinions there are, and how alike they must be",
            ),
            None => {}
        }
        if check.method == Method::OneByOne && check.set_by.is_some() {
            self.add(
                format!("{place}/set_by"),
                "each pinion has washers of its own, so no one drawer sets them all: leave it out",
            );
        }
    }

    pub(super) fn check_selector(&mut self, place: &str, check: &Check) {
        let limited = check.kind == CheckKind::SelectorLimits;
        let Some(selector) = &check.selector else {
            if check.method == Method::SelectorGaps || limited {
                self.add(
                    format!("{place}/selector"),
                    "a check of selector gaps needs the gears that the selector holds",
                );
            }
            return;
        };
        for (g, gear) in selector.gears.iter().enumerate() {
            self.check_limits(&format!("{place}/selector/gears/{g}"), gear, limited);
        }
        if check.set_by.is_some() {
            self.add(
                format!("{place}/set_by"),
                "the shims that are in are moved from end to end, so no drawer sets it: the shaft's float does",
            );
        }
        let low = check.window.as_ref().and_then(|w| w.low.as_ref());
        if limited && low.is_none() {
            self.add(
                format!("{place}/window/low"),
                "say how much the worst gap has to spare at least: 0 keeps every limit",
            );
        }
        if !limited && low.is_some_and(|low| low.length() > Length::ZERO) {
            self.add(
                format!("{place}/window/low"),
                "a gear cannot stand too near the middle: leave the low limit out",
            );
        }
    }

    /// The gaps of a gear have limits where the check is of that kind, and none where they are to be alike.
    fn check_limits(&mut self, place: &str, gear: &SelectorGear, limited: bool) {
        let sides = [("left", gear.left.as_ref()), ("right", gear.right.as_ref())];
        for (side, window) in sides {
            let Some(window) = window else { continue };
            if !limited {
                self.add(
                    format!("{place}/{side}/low"),
                    "gaps that are to be alike have no limits: make it a check of gaps with limits, or leave them out",
                );
            } else if let Err(e) = window.window() {
                self.add(format!("{place}/{side}/low"), e.to_string());
            }
        }
        if limited && gear.left.is_none() && gear.right.is_none() {
            self.add(
                format!("{place}/left/low"),
                "say how small or how large its gap at one side may be, at least",
            );
        }
        if limited && !(1..=HEAVIEST).contains(&gear.weight) {
            self.add(
                format!("{place}/weight"),
                format!("a gear whose gaps have limits weighs from 1 to {HEAVIEST}"),
            );
        }
    }

    pub(super) fn check_known_shim(&mut self, place: &str, check: &Check) {
        if check
            .known_shim
            .as_ref()
            .is_some_and(|shim| shim.length() <= Length::ZERO)
        {
            self.add(
                format!("{place}/known_shim"),
                "how thick the shim is that goes in, such as 0.60 mm; left out where none does",
            );
        }
    }

    pub(super) fn check_seat(&mut self, place: &str, check: &Check) {
        if check.kind != CheckKind::SeatHeight {
            if check.groove.is_some() {
                self.add(
                    format!("{place}/groove"),
                    "a ring's groove is looked at where a seat height is measured: make it of that kind, or leave the groove out",
                );
            }
            return;
        }
        if !matches!(check.method, Method::DepthFromBar | Method::StackSum) {
            self.add(
                format!("{place}/method"),
                "how far a part stands proud is taken by depth from a bar, or summed",
            );
        }
    }

    pub(super) fn check_fit(&mut self, place: &str, check: &Check) {
        let of_kind = check.kind == CheckKind::Fit;
        let Some(fit) = &check.fit else {
            if of_kind {
                self.add(
                    format!("{place}/fit"),
                    "a fit needs its bore and the part that goes in it",
                );
            }
            return;
        };
        if !of_kind {
            self.add(
                format!("{place}/kind"),
                "only a fit has a bore and a part: make it of that kind, or leave them out",
            );
        }
        if check.method != Method::StackSum {
            self.add(
                format!("{place}/method"),
                "a fit is the bore less the part: it is taken by stack sum",
            );
        }
        if check.set_by.is_some() {
            self.add(
                format!("{place}/set_by"),
                "no piece out of a drawer sets a fit: leave it out",
            );
        }
        if !check.stack.is_empty() {
            self.add(
                format!("{place}/stack"),
                "the terms of a fit are its bore and its part: leave these out",
            );
        }
        for (side, of) in [("bore", &fit.bore), ("part", &fit.part)] {
            let place = format!("{place}/fit/{side}");
            self.more_than_nothing(format!("{place}/diameter"), "a diameter", &of.diameter);
            if let Some(tolerance) = &of.tolerance {
                self.more_than_nothing(
                    format!("{place}/tolerance"),
                    "a tolerance (a ± figure; nothing made is exact)",
                    tolerance,
                );
            }
        }
        let (bore, part) = (fit.bore.diameter.length(), fit.part.diameter.length());
        if !could_fit(bore, part) {
            self.add(
                format!("{place}/fit/part/diameter"),
                format!(
                    "the bore is {bore} and the part {part}: further than {FURTHEST_APART} apart they are no fit, so one of the two is wrong"
                ),
            );
        }
        for (field, what, length) in [
            ("drop_in", "the clearance to drop in", &fit.drop_in),
            (
                "compound_up_to",
                "what a compound fills",
                &fit.compound_up_to,
            ),
        ] {
            if let Some(length) = length {
                self.more_than_nothing(format!("{place}/fit/{field}"), what, length);
            }
        }
    }

    pub(super) fn check_harm(&mut self, place: &str, check: &Check) {
        let Some(harm) = check.harm else { return };
        if !harm.is_sound() {
            let (from, to) = (Harm::TIMES.start(), Harm::TIMES.end());
            self.add(
                format!("{place}/harm/times"),
                format!("one side is from {from} to {to} times as bad as the other, such as 4; alike, leave it out"),
            );
        }
        let both = check
            .working_window()
            .is_some_and(|w| w.low().is_some() && w.high().is_some());
        if !both {
            self.add(
                format!("{place}/harm"),
                "only a window with both limits can be missed on the worse side: leave it out",
            );
        }
    }

    pub(super) fn check_backlash(&mut self, place: &str, check: &Check) {
        let of_kind = check.kind == CheckKind::Backlash;
        let Some(backlash) = &check.backlash else {
            if of_kind {
                self.add(
                    format!("{place}/backlash"),
                    "a backlash needs its run-out, and by how much it grows as the ring gear moves away",
                );
            }
            return;
        };
        if !of_kind {
            self.add(
                format!("{place}/kind"),
                "only a backlash has these figures: make it of that kind, or leave them out",
            );
        }
        if check.method != Method::AtTeeth {
            self.add(
                format!("{place}/method"),
                "a backlash is taken at several teeth round the gear",
            );
        }
        let run_out = format!("{place}/backlash/run_out");
        self.more_than_nothing(run_out.clone(), "a run-out", &backlash.run_out);
        let most = Backlash::MOST_RUN_OUT;
        if backlash.run_out.length() > most {
            self.add(
                run_out,
                format!("a run-out of more than {most} is no gear that runs: check the figure and its unit"),
            );
        }
        let low = check.window.as_ref().and_then(|w| w.low.as_ref());
        if low.is_some_and(|low| low.length() <= Length::ZERO) {
            self.add(
                format!("{place}/window/low"),
                "teeth without any play lock: the tight limit is more than nothing",
            );
        }
        let Some(set_by) = &check.set_by else { return };
        if check.moved_by.is_empty() {
            self.add(
                format!("{place}/moved_by"),
                "the shims at the other end move the ring gear too: name the check that they set",
            );
        }
        for (m, moved) in check.moved_by.iter().enumerate() {
            #[allow(clippy::float_cmp)] // written as 1 or −1
            if moved.effect != -f64::from(set_by.effect) {
                self.add(
                    format!("{place}/moved_by/{m}/effect"),
                    format!(
                        "the shims at the other end move the ring gear the other way: {}",
                        -set_by.effect
                    ),
                );
            }
        }
    }
}
