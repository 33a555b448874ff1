//! What stays together.

use std::collections::BTreeMap;

use crate::sheet::Sheet;

/// What stays together, each set in the order of the parts; a part that stays with none is a set of its own, and what is
/// always new stays with nothing.
pub(super) fn sets(sheet: &Sheet) -> Vec<Vec<String>> {
    let cards = sheet.part_cards();
    let always_new: BTreeMap<&str, bool> = cards
        .iter()
        .map(|c| (c.key.as_str(), c.always_new))
        .collect();
    let mut set_of: BTreeMap<&str, usize> = BTreeMap::new();
    for (at, card) in cards.iter().enumerate() {
        set_of.insert(&card.key, at);
    }
    let parts = sheet.shafts.iter().flat_map(|s| &s.parts);
    let on_rails = parts.flat_map(|p| p.kept_with.iter().map(move |k| (p.key.as_str(), k)));
    let items = sheet.items.iter();
    let off = items.flat_map(|i| i.kept_with.iter().map(move |k| (i.key.as_str(), k)));
    for (one, other) in on_rails.chain(off) {
        let is_new = |key: &str| always_new.get(key).copied().unwrap_or(true);
        if is_new(one) || is_new(other) {
            continue;
        }
        let (a, b) = (set_of[one], set_of[other.as_str()]);
        for set in set_of.values_mut().filter(|s| **s == b) {
            *set = a;
        }
    }
    let mut found: Vec<(usize, Vec<String>)> = Vec::new();
    for card in &cards {
        let set = set_of[card.key.as_str()];
        match found.iter_mut().find(|f| f.0 == set) {
            Some((_, keys)) => keys.push(card.key.clone()),
            None => found.push((set, vec![card.key.clone()])),
        }
    }
    found.into_iter().map(|f| f.1).collect()
}
