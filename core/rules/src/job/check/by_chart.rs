//! A chart without a window: each thickness is right for the depths of its own rows, and no other.

use anvil_arithmetic::choose::{Choice, Choices, Request};
use anvil_arithmetic::verdict::Call;

use super::spec::Spec;

impl Spec<'_> {
    /// A choice with the chance that the chart asks for it, where the book gives no window; as it is where it gives one.
    pub(super) fn held_to_chart(&self, request: &Request<'_>, choice: Choice) -> Choice {
        if !self.by_chart() {
            return choice;
        }
        let window = self.chart_leaves(choice.total_nm);
        request.held_to(choice, window)
    }

    /// Holds what was found to the chart: what it never asks for goes, and what its row asks for comes first.
    pub(super) fn rank_by_chart(&self, request: &Request<'_>, choices: &mut Choices) {
        let held = |choice: &Choice| self.held_to_chart(request, choice.clone());
        let first = choices.ranked.first().map(|c| c.total_nm);
        choices.ranked = choices.ranked.iter().map(held).collect();
        choices
            .ranked
            .retain(|c| self.chart_leaves(c.total_nm).is_some());
        choices
            .ranked
            .sort_by_key(|c| (!c.reaches_floor, c.lands != Call::In));
        // The next sizes each side are those of what stood first.
        let same = first == choices.ranked.first().map(|c| c.total_nm);
        let beside = |choice: &Option<Choice>| choice.as_ref().filter(|_| same).map(held);
        (choices.thinner, choices.thicker) = (beside(&choices.thinner), beside(&choices.thicker));
    }
}
