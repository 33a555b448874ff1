//! Pieces that another job has set aside, taken over where both can still be set.

use anvil_arithmetic::choose::{self, Choice, Holder, SizeCount};
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::stock::drawer::{Availability, Stock};
use anvil_arithmetic::units::length::Length;
use serde::Serialize;

use super::loaded::LoadedCheck;

/// The most swaps that are offered.
const OFFERED: usize = 3;

/// A piece taken over from another check, which has something else instead.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct SwapView {
    /// The other job.
    pub job_no: i32,
    /// What is on the bench.
    pub title: String,
    /// The other check.
    pub check_key: String,
    /// What people call it.
    pub name: String,
    pub version: i32,
    /// What is set aside for it now.
    pub held: Vec<SizeCount>,
    /// The chance in window it has with that.
    pub held_chance: f64,
    /// What this check would get.
    pub mine: Choice,
    /// What the other would have instead.
    pub theirs: Choice,
}

/// Whether pieces of other jobs could be asked for: it draws from a drawer, has nothing chosen, and its pieces move
/// no other check.
pub fn may_ask(mine: &LoadedCheck) -> bool {
    mine.request().is_some() && mine.record.open_setting().is_none() && !mine.is_coupled()
}

/// The swaps that would bring a check above the shop's required probability. `others` are those that have pieces of
/// its drawer set aside.
///
/// # Errors
/// Where a record contradicts itself.
pub fn swaps(mine: &LoadedCheck, others: Vec<LoadedCheck>) -> Ruled<Vec<SwapView>> {
    let (Some(request), Some(family)) = (mine.request(), mine.family()) else {
        return Ok(Vec::new());
    };
    if !may_ask(mine) {
        return Ok(Vec::new());
    }
    let could = |known: &LoadedCheck| {
        known.family() == Some(family) && !known.is_coupled() && known.not_now().is_none()
    };
    let others: Vec<LoadedCheck> = others.into_iter().filter(could).collect();
    let free = stock(mine, &[]);
    let held: Vec<Vec<SizeCount>> = others.iter().map(held).collect();
    let stocks: Vec<Vec<Stock>> = others.iter().zip(&held).map(|(k, h)| stock(k, h)).collect();
    let mut holders = Vec::new();
    for ((other, stock), held) in others.iter().zip(&stocks).zip(&held) {
        let request = other
            .request()
            .ok_or_else(|| Refusal::fault("no request"))?;
        holders.push(Holder {
            request: choose::Request { stock, ..request },
            held: held.clone(),
        });
    }
    let asked = choose::Request {
        stock: &free,
        ..request
    };
    let found = choose::swaps(&asked, &holders).map_err(Refusal::fault)?;
    let shown = found.into_iter().take(OFFERED).map(|swap| {
        let other = &others[swap.holder];
        SwapView {
            job_no: other.record.job_no,
            title: other.record.head.title.clone(),
            check_key: other.record.check_key.clone(),
            name: other.check.name.clone(),
            version: other.record.head.version,
            held: held[swap.holder].clone(),
            held_chance: other.record.open_setting().map_or(0.0, |s| s.chance),
            mine: swap.mine,
            theirs: swap.theirs,
        }
    });
    Ok(shown.collect())
}

/// What is set aside for a check.
fn held(known: &LoadedCheck) -> Vec<SizeCount> {
    let pieces = known
        .record
        .open_setting()
        .into_iter()
        .flat_map(|s| &s.pieces);
    pieces
        .filter_map(|p| {
            Some(SizeCount {
                thickness_nm: Length::from_nm(p.thickness_nm),
                grade: p.grade,
                count: u32::try_from(p.reserved).ok().filter(|n| *n > 0)?,
            })
        })
        .collect()
}

/// What is free in the drawer, and these pieces.
fn stock(known: &LoadedCheck, and: &[SizeCount]) -> Vec<Stock> {
    let lines = known.record.stock.iter().map(|line| {
        let of_line =
            |p: &&SizeCount| (p.thickness_nm.nm(), p.grade) == (line.thickness_nm, line.grade);
        let own: u32 = and.iter().filter(of_line).map(|p| p.count).sum();
        let free = u32::try_from(line.on_hand - line.reserved).unwrap_or(0);
        known.record.line(line, free + own, Availability::OnHand)
    });
    lines.filter(|s| s.quantity > 0).collect()
}
