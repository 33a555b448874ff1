//! The gauge register.

use anvil_core::gauge::{Figures, Gauge, Repeatability};
use anvil_core::length::{Length, Unit};
use anvil_core::notation::{self, Sign};
use chrono::{NaiveDate, Utc};
use rocket::serde::json::Json;
use rocket::{State, get, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::guard::WriteKey;
use crate::problem::{Answer, Problem};
use crate::store::gauge::{self, GaugeKind, GaugeRow};
use crate::store::{self, Store, writes};

/// A gauge as it is written on its card: figures with their units.
#[derive(Clone, Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GaugeCard {
    /// A short name: small letters, digits and hyphens.
    pub key: String,
    /// What people call it.
    pub name: String,
    /// What kind it is; a dial where nothing is said.
    #[serde(default = "dial")]
    pub kind: GaugeKind,
    /// The unit it is read in, where it reads lengths: `mm`, `um`, `thou` or `in`.
    #[serde(default)]
    pub unit: Option<Unit>,
    /// The step of its scale, with its unit; in N·m for a wrench and N for a scale.
    pub resolution: String,
    /// Its permissible error, ±, in the same.
    pub permissible_error: String,
    /// Its standard deviation in the same; left out where it is not stated.
    #[serde(default)]
    pub repeatability: String,
    /// The leaves of a feeler set, with commas between them.
    #[serde(default)]
    pub leaves: String,
    /// When it was checked last.
    #[serde(default)]
    pub checked_on: Option<NaiveDate>,
    /// When it is due to be checked.
    #[serde(default)]
    pub due_on: Option<NaiveDate>,
    /// Where it speaks, `HOST:PORT` on this machine.
    #[serde(default)]
    pub live_at: String,
    /// It is no longer used.
    #[serde(default)]
    pub retired: bool,
    /// It is the one taken up of its kind.
    #[serde(default)]
    pub usual: bool,
}

const fn dial() -> GaugeKind {
    GaugeKind::Dial
}

impl GaugeCard {
    /// Reads the card.
    pub fn read(&self) -> Answer<GaugeRow> {
        let name = self.name.trim();
        if name.is_empty() || name.chars().count() > 60 {
            return Err(Problem::field(
                "name",
                "Say what the gauge is called, in up to 60 characters.",
            ));
        }
        let plain = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
        if self.key.is_empty() || self.key.len() > 40 || !self.key.chars().all(plain) {
            return Err(Problem::field(
                "key",
                "A gauge's key has up to 40 small letters, digits and hyphens.",
            ));
        }
        if let (Some(checked), Some(due)) = (self.checked_on, self.due_on)
            && due <= checked
        {
            return Err(Problem::field(
                "due_on",
                "It is due after it was checked: check the two dates.",
            ));
        }
        let live_at = self.live_at.trim();
        let own = |host: &str| matches!(host, "127.0.0.1" | "localhost" | "[::1]");
        let speaks = live_at
            .rsplit_once(':')
            .is_some_and(|(host, port)| own(host) && port.parse::<u16>().is_ok_and(|p| p > 0));
        if !live_at.is_empty() && !speaks {
            return Err(Problem::field(
                "live_at",
                "A gauge speaks on this machine: write 127.0.0.1 and its port, such as 127.0.0.1:7420.",
            ));
        }
        let mut row = GaugeRow {
            gauge_key: self.key.clone(),
            name: name.to_owned(),
            kind: self.kind,
            unit: String::new(),
            resolution_nm: None,
            permissible_error_nm: None,
            repeatability_nm: None,
            repeatability_dof: None,
            resolution_si: None,
            permissible_error_si: None,
            repeatability_si: None,
            leaves_nm: Vec::new(),
            checked_on: self.checked_on,
            due_on: self.due_on,
            live_at: live_at.to_owned(),
            retired: self.retired,
            usual: self.usual && !self.retired,
            version: 1,
        };
        if self.kind.of_length() {
            self.lengths(&mut row)?;
        } else {
            self.forces(&mut row)?;
        }
        Ok(row)
    }

    fn lengths(&self, row: &mut GaugeRow) -> Answer<()> {
        let unit = self.unit.unwrap_or(Unit::Mm);
        let length = |field: &str, text: &str| {
            notation::parse(text, Some(unit), Sign::NotNegative)
                .map_err(|e| Problem::field(field, e))
        };
        let repeatability = if self.repeatability.trim().is_empty() {
            None
        } else {
            let s = length("repeatability", &self.repeatability)?;
            Some(Repeatability {
                s_nm: s.as_f64(),
                dof: None,
            })
        };
        let figures = Figures {
            resolution_nm: length("resolution", &self.resolution)?,
            permissible_error_nm: length("permissible_error", &self.permissible_error)?,
            repeatability,
        };
        Gauge::try_from(figures).map_err(|e| {
            let message = e.to_string();
            let field = message
                .split(':')
                .next()
                .unwrap_or_default()
                .replace(' ', "_");
            Problem::field(&field, message)
        })?;
        store::shop::unit_name(unit).clone_into(&mut row.unit);
        row.resolution_nm = Some(figures.resolution_nm.nm());
        row.permissible_error_nm = Some(figures.permissible_error_nm.nm());
        row.repeatability_nm = repeatability.map(|r| r.s_nm);
        if self.kind == GaugeKind::Feeler {
            row.leaves_nm = self.leaves_nm(unit)?;
        }
        Ok(())
    }

    /// The leaves, thinnest first. A comma ends a leaf, so that a decimal comma cannot be told from
    /// it: leaves are written with points, or one a line.
    fn leaves_nm(&self, unit: Unit) -> Answer<Vec<i64>> {
        let mut leaves = self
            .leaves
            .split([',', ';', '\n'])
            .map(str::trim)
            .filter(|t| !t.is_empty())
            .map(|t| {
                notation::parse(t, Some(unit), Sign::NotNegative)
                    .map(Length::nm)
                    .map_err(|e| Problem::field("leaves", format!("“{t}”: {e}")))
            })
            .collect::<Answer<Vec<i64>>>()?;
        leaves.sort_unstable();
        if leaves.first().is_none_or(|thinnest| *thinnest <= 0) || leaves.len() > 60 {
            return Err(Problem::field(
                "leaves",
                "A feeler set has from 1 to 60 leaves, each thicker than nothing, such as 0.05, 0.10, 0.15.",
            ));
        }
        if leaves.windows(2).any(|w| w[0] == w[1]) {
            return Err(Problem::field(
                "leaves",
                "A leaf is there twice: name each once.",
            ));
        }
        Ok(leaves)
    }

    fn forces(&self, row: &mut GaugeRow) -> Answer<()> {
        let (unit, said) = if self.kind == GaugeKind::TorqueWrench {
            ("n_m", "N·m")
        } else {
            ("n", "N")
        };
        let figure = |field: &str, text: &str, least: bool| {
            let bare = text
                .trim()
                .trim_end_matches(|c: char| c.is_alphabetic() || matches!(c, '·' | ' '))
                .replace(',', ".");
            match bare.parse::<f64>() {
                Ok(value) if value.is_finite() && (value > 0.0 || (value == 0.0 && !least)) => {
                    Ok(value)
                }
                _ => Err(Problem::field(
                    field,
                    format!("Write a figure in {said}, such as 0.05."),
                )),
            }
        };
        unit.clone_into(&mut row.unit);
        row.resolution_si = Some(figure("resolution", &self.resolution, true)?);
        row.permissible_error_si =
            Some(figure("permissible_error", &self.permissible_error, false)?);
        if !self.repeatability.trim().is_empty() {
            row.repeatability_si = Some(figure("repeatability", &self.repeatability, true)?);
        }
        Ok(())
    }
}

/// A gauge of the register, and whether it is past its due day.
#[derive(Debug, Serialize, ToSchema)]
pub struct Registered {
    /// The gauge.
    #[serde(flatten)]
    pub gauge: GaugeRow,
    /// It was due to be checked before today.
    pub overdue: bool,
}

/// The gauge register, the usual ones first, retired ones last.
#[utoipa::path(operation_id = "gauges_list", context_path = "/api", tag = "gauges",
    responses((status = 200, body = Vec<Registered>)))]
#[get("/gauges")]
pub async fn list(store: &State<Store>) -> Answer<Json<Vec<Registered>>> {
    let today = Utc::now().date_naive();
    let gauges = gauge::list(store, &store.pool).await?;
    Ok(Json(
        gauges
            .into_iter()
            .map(|gauge| Registered {
                overdue: !gauge.retired && gauge.due_on.is_some_and(|due| due < today),
                gauge,
            })
            .collect(),
    ))
}

/// A card for the register.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CardIn {
    /// The card.
    pub card: GaugeCard,
    /// The version that was seen; none for a new gauge.
    #[serde(default)]
    pub seen: Option<i32>,
    /// The initials.
    pub who: String,
}

/// Puts a gauge in the register, or changes it. A signature keeps the figures it was given on.
#[utoipa::path(operation_id = "gauges_put", context_path = "/api", tag = "gauges", request_body = CardIn,
    params(("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Vec<Registered>), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[put("/gauges", data = "<asked>")]
pub async fn put(
    store: &State<Store>,
    key: WriteKey,
    asked: Json<CardIn>,
) -> Answer<Json<Vec<Registered>>> {
    let row = asked.card.read()?;
    let mut tx = store.begin().await?;
    let fingerprint = serde_json::to_string(&*asked).map_err(Problem::server)?;
    if writes::claim(store, &mut tx, &key.0, &fingerprint)
        .await?
        .is_none()
    {
        store::shop::known(store, &mut tx, &asked.who).await?;
        if !gauge::put(store, &mut tx, &row, asked.seen, &asked.who).await? {
            return Err(if asked.seen.is_some() {
                Problem::new(
                    rocket::http::Status::PreconditionFailed,
                    "changed-meanwhile",
                    "This gauge has changed since you looked, or is of another kind. What it says now is on the screen; look again, then decide.",
                )
            } else {
                Problem::field(
                    "key",
                    "There is a gauge of this key already: choose another.",
                )
            });
        }
        tx.commit().await?;
    }
    list(store).await
}
