//! HTTP, one file per resource: what is asked, by whom, and what is answered.

pub mod calc;
pub mod checks;
pub mod drawers;
pub mod gauges;
pub mod health;
pub mod jobs;
pub mod live;
pub mod order;
pub mod past;
pub mod plan;
pub mod revise;
pub mod setting_sums;
pub mod share;
pub mod sheets;
pub mod shop;
pub mod sums;

use rocket::Route;
use utoipa::OpenApi;

/// Everything under `/api`.
pub fn all() -> Vec<Route> {
    rocket::routes![
        shop::shop,
        jobs::list,
        jobs::open,
        jobs::one,
        jobs::hand_over,
        jobs::report,
        checks::one,
        checks::read,
        checks::way,
        checks::tick,
        checks::mark,
        checks::fitted,
        checks::choose,
        checks::let_go,
        checks::fit,
        checks::lay,
        checks::shims,
        checks::sign,
        checks::reopen,
        checks::aim,
        checks::usual,
        checks::swaps,
        plan::plan_job,
        plan::plan_sheet,
        past::past_sheet,
        drawers::list,
        drawers::moves,
        drawers::count,
        drawers::csv_out,
        drawers::csv_in,
        drawers::preview,
        drawers::act,
        drawers::mike,
        drawers::undo,
        sheets::list,
        sheets::one,
        sheets::file_out,
        sheets::file_in,
        sheets::chart_in,
        sheets::look,
        sheets::revisions,
        sheets::changes,
        revise::asked,
        revise::moved,
        gauges::list,
        gauges::put,
        calc::parse,
        calc::measured,
        calc::next_leaf,
        calc::turning,
        calc::judged,
        calc::piece,
        calc::choices,
        calc::pack,
        sums::rollers,
        sums::ratios,
        sums::heat,
        sums::units,
        setting_sums::piece_sum,
        setting_sums::pinch,
        setting_sums::known_shim,
        setting_sums::stack,
        setting_sums::hot,
        setting_sums::pull,
        setting_sums::centring,
        jobs::note,
        share::share_out,
        share::share_choose,
        order::order_view,
        order::order_csv,
        live::gauge_live,
        live::lines_live,
        openapi,
    ]
}

/// The description of the interface.
#[derive(OpenApi)]
#[openapi(
    info(
        title = "Dry Anvil",
        description = "The bench book of a transmission rebuilder. Lengths are in nanometres (`_nm`), times RFC 3339 in UTC, errors `application/problem+json`. Writes take an `Idempotency-Key` header, edits an `If-Match` with the version that was seen."
    ),
    paths(
        shop::shop,
        jobs::list,
        jobs::open,
        jobs::one,
        jobs::hand_over,
        jobs::report,
        checks::one,
        checks::read,
        checks::way,
        checks::tick,
        checks::mark,
        checks::fitted,
        checks::choose,
        checks::let_go,
        checks::fit,
        checks::lay,
        checks::shims,
        checks::sign,
        checks::reopen,
        checks::aim,
        checks::usual,
        checks::swaps,
        plan::plan_job,
        plan::plan_sheet,
        past::past_sheet,
        drawers::list,
        drawers::moves,
        drawers::count,
        drawers::csv_out,
        drawers::csv_in,
        drawers::preview,
        drawers::act,
        drawers::mike,
        drawers::undo,
        sheets::list,
        sheets::one,
        sheets::file_out,
        sheets::file_in,
        sheets::chart_in,
        sheets::look,
        sheets::revisions,
        sheets::changes,
        revise::asked,
        revise::moved,
        gauges::list,
        gauges::put,
        calc::parse,
        calc::measured,
        calc::next_leaf,
        calc::turning,
        calc::judged,
        calc::piece,
        calc::choices,
        calc::pack,
        sums::rollers,
        sums::ratios,
        sums::heat,
        sums::units,
        setting_sums::piece_sum,
        setting_sums::pinch,
        setting_sums::known_shim,
        setting_sums::stack,
        setting_sums::hot,
        setting_sums::pull,
        setting_sums::centring,
        jobs::note,
        share::share_out,
        share::share_choose,
        order::order_view,
        order::order_csv,
    ),
    components(schemas(crate::problem::Problem, live::Told))
)]
pub struct Api;

/// The description as JSON, ending in a line feed, as committed for the front end.
///
/// # Panics
/// Never: the description is made of plain values.
#[must_use]
pub fn openapi_json() -> String {
    let json = Api::openapi().to_pretty_json().expect("plain values");
    json + "\n"
}

#[rocket::get("/openapi.json")]
fn openapi() -> (rocket::http::ContentType, String) {
    (rocket::http::ContentType::JSON, openapi_json())
}
