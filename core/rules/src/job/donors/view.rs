//! Dismantled boxes side by side.

use std::collections::BTreeMap;

use serde::Serialize;

use super::sets::sets;
use super::used::{DismantledBox, UsedPart, UsedState};

/// What several boxes have of each part.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct DonorsView {
    /// The box that is overhauled, then those that parts can come out of.
    pub boxes: Vec<DonorBox>,
    /// Shaft by shaft as they lie on the rails, then those off them.
    pub rows: Vec<DonorRow>,
}

/// A box that parts can come out of.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct DonorBox {
    pub job_no: i32,
    /// What is on the bench.
    pub title: String,
    /// What people call the build that it is of, where the sheet has several.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub build_of: Option<String>,
    /// The box itself is gone: its parts lie on the shelf.
    pub on_shelf: bool,
    /// How many of its parts can go into this job's box.
    pub usable: usize,
    /// How many of its parts nobody has looked at, new ones apart.
    pub not_looked_at: usize,
}

/// One part in several boxes.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct DonorRow {
    /// The part's key.
    pub part: String,
    /// What people call it, with its shaft where another has the same name.
    pub name: String,
    pub count: u32,
    /// It is replaced at every overhaul.
    pub always_new: bool,
    /// The keys of the parts that it stays with: all come out of one box, or all are new.
    pub stays_with: Vec<String>,
    /// The box whose part is in this job's box now; none for its own, or a new one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub taken_from: Option<i32>,
    /// A new one goes in, as it stands.
    pub is_new: bool,
    /// For each box what it has of it.
    pub cells: Vec<UsedPart>,
}

impl DonorRow {
    /// The job whose box the part that is in comes out of, which is `own` for its own; none for a new one.
    pub(super) fn stands(&self, own: i32) -> Option<i32> {
        if self.is_new {
            None
        } else {
            self.taken_from.or(Some(own))
        }
    }
}

/// The box of a job beside those that parts can come out of.
#[must_use]
pub fn view(own: &DismantledBox<'_>, others: &[DismantledBox<'_>]) -> DonorsView {
    let sheet = own.sheet;
    let mut has: Vec<BTreeMap<String, UsedPart>> = vec![own.parts(sheet, true)];
    has.extend(others.iter().map(|o| o.parts(sheet, false)));
    let cards = sheet.part_cards();
    let boxes = [own].into_iter().chain(others).zip(&has);
    let boxes = boxes.map(|(of, has)| {
        let own_parts = cards.iter().filter(|c| !c.always_new);
        let parts: Vec<&UsedPart> = own_parts.filter_map(|c| has.get(&c.key)).collect();
        let unseen = |p: &&&UsedPart| p.state == UsedState::NotLookedAt;
        DonorBox {
            job_no: of.job_no,
            title: of.title.to_owned(),
            build_of: of.sheet.usual_variant().map(|v| v.name.clone()),
            on_shelf: of.is_gone,
            usable: parts.iter().filter(|p| p.is_for(own.job_no)).count(),
            not_looked_at: parts.iter().filter(unseen).count(),
        }
    });
    let found = crate::job::parts::findings(own.entries);
    let sets = sets(sheet);
    let rows = cards.iter().map(|card| {
        let finding = found.get(card.key.as_str());
        let set = sets.iter().find(|s| s.contains(&card.key));
        DonorRow {
            part: card.key.clone(),
            name: sheet.told_apart(&card.key).unwrap_or_default(),
            count: card.count,
            always_new: card.always_new,
            stays_with: set
                .into_iter()
                .flatten()
                .filter(|k| **k != card.key)
                .cloned()
                .collect(),
            taken_from: finding.and_then(|f| f.from),
            is_new: finding.map_or(card.always_new, |f| f.state.is_got()),
            cells: has
                .iter()
                .map(|has| {
                    let mut cell = has[&card.key].clone();
                    let elsewhere = cell.given_to.is_some_and(|to| to != own.job_no);
                    if elsewhere && cell.is_usable() {
                        cell.state = UsedState::Given;
                    }
                    cell
                })
                .collect(),
        }
    });
    DonorsView {
        boxes: boxes.collect(),
        rows: rows.collect(),
    }
}
