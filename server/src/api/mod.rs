//! HTTP: one file a resource, and one table of routes.

pub mod acts;
pub mod allocation;
pub mod backups;
pub mod builds;
pub mod calculators;
pub mod checks;
pub mod description;
pub mod donors;
pub mod drawers;
pub mod gauges;
pub mod health;
pub mod identity;
pub mod jobs;
pub mod live;
pub mod parts;
pub mod pictures;
pub mod plan;
pub mod predictions;
pub mod purchase;
pub mod revisions;
pub mod sheets;
pub mod shop;
mod streamed;

use rocket::Route;
use utoipa::OpenApi;

use crate::http::serving::watched;

/// Makes Rocket's routes and the description of the interface out of one table.
macro_rules! routes_and_description {
    ($($verb:ident $path:literal => $($handler:ident)::+,)+) => {
        /// The table: verb and path of everything under `/api` that is described.
        pub const TABLE: &[(&str, &str)] = &[$((stringify!($verb), $path)),+];

        /// Everything under `/api` that is described, for Rocket.
        pub fn routes() -> Vec<Route> {
            rocket::routes![$($($handler)::+),+]
        }

        /// The description of the interface.
        #[derive(OpenApi)]
        #[openapi(
            info(
                title = "Dry Anvil",
                description = "The bench book of a transmission rebuilder. Lengths are in nanometres (`_nm`), times RFC 3339 in UTC, errors `application/problem+json`. Writes take an `Idempotency-Key` header, edits an `If-Match` with the version that was seen."
            ),
            paths($($($handler)::+),+),
            components(schemas(crate::http::problem::Problem, live::Told))
        )]
        pub struct Api;
    };
}

#[rustfmt::skip]
routes_and_description! {
    GET  "/shop"                                                         => shop::shop,
    PUT  "/shop"                                                         => shop::put,
    PUT  "/people"                                                       => shop::person,
    GET  "/backups"                                                      => backups::backups,
    GET  "/jobs"                                                         => jobs::list,
    POST "/jobs"                                                         => jobs::open,
    GET  "/jobs/{job_no}"                                                => jobs::one,
    POST "/job-file"                                                     => jobs::file_in,
    GET  "/jobs/{job_no}/file"                                           => jobs::file_out,
    POST "/jobs/{job_no}/notes"                                          => jobs::note,
    POST "/jobs/{job_no}/acts"                                           => acts::act,
    GET  "/jobs/{job_no}/report"                                         => jobs::report,
    GET  "/jobs/{job_no}/checks/{check_key}"                             => checks::one,
    POST "/jobs/{job_no}/checks/{check_key}/readings"                    => checks::read,
    POST "/jobs/{job_no}/checks/{check_key}/ticks"                       => checks::tick,
    POST "/jobs/{job_no}/checks/{check_key}/readings/{reading_no}/marks" => checks::mark,
    POST "/jobs/{job_no}/checks/{check_key}/pack/drawn"                  => checks::pack_drawn,
    GET  "/jobs/{job_no}/checks/{check_key}/swaps"                       => checks::swaps,
    GET  "/jobs/{job_no}/checks/{check_key}/sisters"                     => checks::sisters,
    GET  "/jobs/{job_no}/checks/{check_key}/clashes"                     => checks::clashes,
    GET  "/jobs/{job_no}/checks/{check_key}/split"                       => checks::split,
    GET  "/jobs/{job_no}/plan"                                           => plan::plan_job,
    GET  "/jobs/{job_no}/closings"                                       => plan::closings,
    GET  "/jobs/{job_no}/build"                                          => builds::one,
    GET  "/jobs/{job_no}/build/tear-back"                                => builds::tear_back,
    GET  "/parts"                                                        => parts::bench,
    GET  "/jobs/{job_no}/parts"                                          => parts::one,
    GET  "/jobs/{job_no}/parts/{part}/wear"                              => parts::wear,
    GET  "/jobs/{job_no}/parts/{part}/width"                             => parts::width,
    GET  "/jobs/{job_no}/since"                                          => parts::since,
    GET  "/sheets/{key}/found"                                           => parts::over_the_years,
    GET  "/jobs/{job_no}/donors"                                         => donors::one,
    POST "/jobs/{job_no}/donors/best"                                    => donors::best,
    GET  "/shelf"                                                        => donors::on_shelf,
    GET  "/jobs/{job_no}/pictures"                                       => pictures::list,
    POST "/jobs/{job_no}/pictures"                                       => pictures::add,
    GET  "/jobs/{job_no}/pictures/{picture_no}"                          => pictures::one,
    POST "/jobs/{job_no}/pictures/{picture_no}/marks"                    => pictures::mark,
    GET  "/sheets/{key}/notes"                                           => builds::notes,
    GET  "/sheets/{key}/plan"                                            => plan::plan_sheet,
    GET  "/sheets/{key}/past"                                            => predictions::past_sheet,
    GET  "/drawers"                                                      => drawers::list,
    GET  "/drawers/conflicts"                                            => drawers::conflicts,
    PUT  "/drawers/{family}/figures"                                     => drawers::figures,
    GET  "/drawers/{family}/moves"                                       => drawers::moves,
    PUT  "/drawers/{family}"                                             => drawers::count,
    POST "/drawers"                                                      => drawers::open,
    POST "/drawers/{family}/sizes"                                       => drawers::add_sizes,
    POST "/drawers/{family}/counts"                                      => drawers::take_stock,
    GET  "/drawers.csv"                                                  => drawers::csv_out,
    POST "/drawers/preview"                                              => drawers::preview,
    POST "/drawers/acts"                                                 => drawers::act,
    POST "/drawers/{family}/miked"                                       => drawers::mike,
    POST "/drawers/undo"                                                 => drawers::undo,
    POST "/drawers/import"                                               => drawers::csv_in,
    GET  "/sheets"                                                       => sheets::list,
    GET  "/sheets/{key}"                                                 => sheets::one,
    GET  "/sheets/{key}/complaints"                                      => sheets::complaints,
    GET  "/sheets/{key}/file"                                            => sheets::file_out,
    POST "/sheets/look"                                                  => sheets::look,
    GET  "/sheets/{key}/revisions"                                       => sheets::revisions,
    GET  "/sheets/{key}/changes"                                         => sheets::changes,
    POST "/sheets"                                                       => sheets::file_in,
    PUT  "/sheets/{key}/checks/{check_key}/chart"                        => sheets::chart_in,
    POST "/identity"                                                     => identity::ask,
    GET  "/jobs/{job_no}/identity"                                       => identity::one,
    GET  "/jobs/{job_no}/revision"                                       => revisions::asked,
    PUT  "/jobs/{job_no}/revision"                                       => revisions::moved,
    GET  "/gauges"                                                       => gauges::list,
    PUT  "/gauges"                                                       => gauges::put,
    POST "/calc/sizes"                                                   => calculators::measuring::sizes,
    POST "/calc/parse"                                                   => calculators::measuring::parse,
    POST "/calc/measure"                                                 => calculators::measuring::measured,
    POST "/calc/next-leaf"                                               => calculators::measuring::next_leaf,
    POST "/calc/turning-torque"                                          => calculators::measuring::turning,
    POST "/calc/judge"                                                   => calculators::measuring::judged,
    POST "/calc/wanted"                                                  => calculators::measuring::piece,
    POST "/calc/choose"                                                  => calculators::measuring::choices,
    POST "/calc/rollers"                                                 => calculators::sums::rollers,
    POST "/calc/ratios"                                                  => calculators::sums::ratios,
    POST "/calc/heat-fit"                                                => calculators::sums::heat,
    POST "/calc/units"                                                   => calculators::sums::units,
    POST "/calc/piece"                                                   => calculators::setting::piece_sum,
    POST "/calc/pinch"                                                   => calculators::setting::pinch,
    POST "/calc/known-shim"                                              => calculators::setting::known_shim,
    POST "/calc/stack"                                                   => calculators::setting::stack,
    POST "/calc/hot"                                                     => calculators::setting::hot,
    POST "/calc/pull"                                                    => calculators::setting::pull,
    POST "/calc/centring"                                                => calculators::setting::centring,
    POST "/calc/limited-gaps"                                            => calculators::setting::limited_gaps,
    POST "/share"                                                        => allocation::share_out,
    POST "/share/undo"                                                   => allocation::share_undo,
    POST "/share/seen"                                                   => allocation::share_seen,
    POST "/share/choose"                                                 => allocation::share_choose,
    GET  "/order"                                                        => purchase::order_view,
    GET  "/order/awaited"                                                => purchase::awaited,
    GET  "/order/csv"                                                    => purchase::order_csv,
}

/// Everything under `/api`: the table, the sockets of gauges, and the description itself.
pub fn all() -> Vec<Route> {
    let mut routes = routes();
    routes.extend(rocket::routes![live::gauge_live, live::lines_live, openapi]);
    watched(routes)
}

/// The description as JSON, ending in a line feed, as committed for the front end.
///
/// # Panics
/// Never: the description is made of plain values.
#[must_use]
pub fn openapi_json() -> String {
    let described = serde_json::to_value(Api::openapi()).expect("plain values");
    let all = description::complete(described);
    serde_json::to_string_pretty(&all).expect("plain values") + "\n"
}

#[rocket::get("/openapi.json")]
fn openapi() -> (rocket::http::ContentType, String) {
    (rocket::http::ContentType::JSON, openapi_json())
}
