//! What is to be known of a part where it lies in the hand: which one, which way round, in what relation.

use std::collections::BTreeMap;

use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::written::Written;
use serde::Serialize;

use super::{Facing, PartKind, Sheet, WearLimit};
use crate::texts::in_sentence;

/// A part on a rail or an item off them, with what is to be known of it.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct PartCard {
    pub key: String,
    pub name: String,
    /// It lies on a rail.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub on_rail: bool,
    /// It is not put in: a case.
    #[serde(skip)]
    pub stands_there: bool,
    /// The step that puts it in, by its place in the list.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub step: Option<usize>,
    /// How many there are.
    pub count: u32,
    /// How to tell it from its twin.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub which: String,
    /// What it is easily taken for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub twin: Option<String>,
    /// Which way round it goes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub facing: Option<Facing>,
    /// What that face looks towards, in words.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub towards: Option<String>,
    /// The side along the rail that it looks to: −1 to the left, 1 to the right.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub arrow: Option<i8>,
    /// The marks that are lined up.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub marks: String,
    /// What its writer has to say of it.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// The size by which it is told whether it is worn out.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wear: Option<WearCard>,
    /// It is replaced at every overhaul.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub always_new: bool,
    /// What it stays with.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub kept_with: Vec<String>,
}

/// The size by which it is told whether a part is worn out.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct WearCard {
    /// What is measured, and how.
    pub what: String,
    /// What it is when new, in nanometres.
    pub new_nm: Option<Length>,
    /// Below this it is worn out, in nanometres.
    pub low_nm: Option<Length>,
    /// Above this it is worn out, in nanometres.
    pub high_nm: Option<Length>,
}

impl From<&WearLimit> for WearCard {
    fn from(of: &WearLimit) -> Self {
        let length = |of: &Option<Written>| of.as_ref().map(Written::length);
        Self {
            what: of.what.clone(),
            new_nm: length(&of.new),
            low_nm: length(&of.at_least),
            high_nm: length(&of.at_most),
        }
    }
}

impl Sheet {
    /// A card for each part on the rails, shaft by shaft, and for each item off them.
    #[must_use]
    pub fn part_cards(&self) -> Vec<PartCard> {
        let steps = self.build.iter().enumerate();
        let put_in: BTreeMap<&str, usize> = steps
            .flat_map(|(at, step)| step.puts.iter().map(move |key| (key.as_str(), at)))
            .collect();
        let put_in = |key: &str| put_in.get(key).copied();
        let on_rails = self.shafts.iter().flat_map(|shaft| {
            shaft.parts.iter().map(|part| PartCard {
                on_rail: true,
                stands_there: part.kind == PartKind::Housing,
                step: put_in(&part.key),
                count: 1,
                which: part.which.clone(),
                twin: part.twin.as_deref().map(|k| self.called(k)),
                towards: part.facing.as_ref().map(|f| self.towards(&f.towards)),
                arrow: shaft.faces(part),
                facing: part.facing.clone(),
                marks: part.marks.clone(),
                note: part.note.clone(),
                wear: part.wear.as_ref().map(WearCard::from),
                always_new: part.always_new,
                kept_with: part.kept_with.iter().map(|k| self.called(k)).collect(),
                name: part.name.clone(),
                key: part.key.clone(),
            })
        });
        let off_rails = self.items.iter().map(|item| PartCard {
            on_rail: false,
            stands_there: false,
            step: put_in(&item.key),
            count: item.count.unwrap_or(1),
            which: item.which.clone(),
            twin: item.twin.as_deref().map(|k| self.called(k)),
            towards: item.facing.as_ref().map(|f| self.towards(&f.towards)),
            arrow: None,
            facing: item.facing.clone(),
            marks: item.marks.clone(),
            note: String::new(),
            wear: item.wear.as_ref().map(WearCard::from),
            always_new: item.always_new,
            kept_with: item.kept_with.iter().map(|k| self.called(k)).collect(),
            name: item.name.clone(),
            key: item.key.clone(),
        });
        on_rails.chain(off_rails).collect()
    }

    /// What people call a part or an item; its key where the sheet does not have it.
    fn called(&self, part: &str) -> String {
        self.name_of_part(part).unwrap_or(part).to_owned()
    }

    /// What a face looks towards, in words.
    fn towards(&self, said: &str) -> String {
        match said {
            "left" => "to the left".into(),
            "right" => "to the right".into(),
            "up" => "up".into(),
            "out" => "outward".into(),
            "in" => "inward".into(),
            "load" => "to the load".into(),
            key => format!("to {}", in_sentence(&self.called(key))),
        }
    }
}
