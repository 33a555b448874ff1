//! A sheet that is still being written: what can be drawn of it already, and what is still to be
//! seen to.

use serde::Serialize;
use serde_json::Value;

use crate::drawing::shafts::{Rail, rail};
use crate::sheet::pack::DrawnPack;
use crate::sheet::validate::{self, Kind, Placed};
use crate::sheet::{BuildStep, Doubt, Fault, Sheet, doubts, proposed_steps};

/// What can be said of a sheet while it is written.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Draft {
    /// Every fault by its place, those of single fields first. None at all: it can be kept.
    pub faults: Vec<Fault>,
    /// What a rebuilder would ask about, where nothing is at fault.
    pub doubts: Vec<Doubt>,
    /// The drawing, as far as it can be read; a part whose width cannot is drawn as not read. None
    /// where the draft has not even the shape of a sheet.
    pub rail: Option<Rail>,
    /// Its clutch packs as drawn, as far as they can be read.
    pub packs: Vec<DrawnPack>,
    /// Steps of a build to start from, where it has none.
    pub proposed: Vec<BuildStep>,
}

/// Looks through a sheet that is still being written.
///
/// Where [`crate::sheet::read`] refuses a sheet with a fault, this stands something in for what cannot be
/// read and looks at the rest all the same: a name still missing on one shaft hides neither the
/// drawing nor a window upside down elsewhere.
///
/// ```
/// let draft = anvil_rules::drawing::draft::draft(&serde_json::json!({
///     "format": "dry-anvil-sheet", "version": 1, "key": "new", "name": "New box", "kind": "manual",
///     "unit": "mm", "checks": [],
///     "shafts": [{ "key": "main", "name": "Main shaft", "parts": [
///         { "key": "gear", "name": "", "kind": "gear", "width": "1o mm" }
///     ]}],
/// }));
/// let places: Vec<_> = draft.faults.iter().map(|f| f.place.as_str()).collect();
/// assert_eq!(places, ["/checks", "/shafts/0/parts/0/name", "/shafts/0/parts/0/width"]);
/// assert!(draft.rail.unwrap().shafts[0].blocks[0].unread);
/// ```
#[must_use]
pub fn draft(value: &Value) -> Draft {
    let only = |faults: Vec<Fault>| Draft {
        faults,
        doubts: Vec::new(),
        rail: None,
        packs: Vec::new(),
        proposed: Vec::new(),
    };
    if let Err(fault) = validate::check_format(value) {
        return only(vec![fault]);
    }
    let mut placed = validate::schema_faults(value);
    if placed.iter().any(|p| p.kind == Kind::TooMany) {
        return only(placed.into_iter().map(|p| p.fault).collect());
    }
    placed.sort_by(|a, b| a.fault.place.cmp(&b.fault.place));
    let (mended, stood_in) = stand_ins(value, &placed);
    let mut faults: Vec<Fault> = placed.into_iter().map(|p| p.fault).collect();
    let mut doubted = Vec::new();
    let mut proposed = Vec::new();
    let (rail, packs) = match serde_json::from_value::<Sheet>(mended) {
        Ok(sheet) => {
            let beyond = validate::beyond_schema(&sheet);
            faults.extend(
                beyond
                    .into_iter()
                    .filter(|f| !stood_in.iter().any(|s| comes_of(&f.place, s))),
            );
            if faults.is_empty() {
                doubted = doubts(&sheet);
            }
            // Of several builds the first is drawn.
            let built = sheet.as_built("");
            if built.build.is_empty() {
                proposed = proposed_steps(&built);
            }
            let packs = built
                .packs
                .iter()
                .map(|pack| pack.drawn_to_write(&sheet.waived))
                .collect();
            (Some(rail(&built)), packs)
        }
        Err(e) => {
            if faults.is_empty() {
                faults.push(Fault {
                    place: "/".into(),
                    message: e.to_string(),
                });
            }
            (None, Vec::new())
        }
    };
    Draft {
        faults,
        doubts: doubted,
        rail,
        packs,
        proposed,
    }
}

/// The sheet with something standing in wherever a field cannot be read, and those fields' places.
fn stand_ins(value: &Value, faults: &[Placed]) -> (Value, Vec<String>) {
    let mut mended = value.clone();
    let mut places = Vec::new();
    for (number, Placed { fault, kind }) in faults.iter().enumerate() {
        let place = &fault.place;
        let Some((parent, field)) = place.rsplit_once('/') else {
            continue;
        };
        let stand_in = match (kind, field) {
            (Kind::Length, "diameter" | "gap_before") => None,
            // A part without width is drawn as not read.
            (Kind::Length, "width") => Some("0 mm".to_owned()),
            (Kind::Length, _) => Some("1 mm".to_owned()),
            (Kind::Empty, _) => Some("…".to_owned()),
            (Kind::Key, _) => Some(format!("stand-in-{number}")),
            (Kind::TooMany | Kind::Other, _) => continue,
        };
        let put = match (mended.pointer_mut(parent), stand_in) {
            (Some(Value::Object(fields)), None) => fields.remove(field).is_some(),
            (Some(parent), Some(text)) => match parent {
                Value::Object(fields) => fields.insert(field.into(), text.into()).is_some(),
                Value::Array(items) => field
                    .parse::<usize>()
                    .ok()
                    .and_then(|i| items.get_mut(i))
                    .map(|item| *item = text.into())
                    .is_some(),
                _ => false,
            },
            _ => false,
        };
        if put {
            places.push(place.clone());
        }
    }
    (mended, places)
}

/// Whether a fault may come of what stands in at a place, and is no fault of the person's.
fn comes_of(fault: &str, stood_in: &str) -> bool {
    let mut tokens = stood_in.match_indices('/').map(|(at, _)| at);
    // In a check or a family a figure is judged beside the others of its section.
    let section = match (stood_in.split('/').nth(1), tokens.nth(3)) {
        (Some("checks" | "families" | "packs"), Some(end)) => &stood_in[..end],
        _ => stood_in,
    };
    let target_of_window = section
        .strip_suffix("/window")
        .or_else(|| section.strip_suffix("/shop_window"))
        .is_some_and(|check| fault == format!("{check}/target"));
    fault.starts_with(section) || target_of_window
}
