//! One check, as its screen needs it.

use anvil_rules::job::check::loaded::LoadedCheck;
use anvil_rules::job::check::view::CheckView;

use crate::http::problem::ApiResult;
use crate::processor::heavily_if;
use crate::queries::checks::is_much;

/// A check that was loaded, as its screen needs it.
///
/// # Errors
/// Where its records contradict themselves.
pub fn check_view(loaded: LoadedCheck) -> ApiResult<CheckView> {
    heavily_if(is_much(&loaded.record), || {
        Ok(CheckView::of_loaded(loaded)?)
    })
}
