//! A yes by hand and a figure that cannot both be so are told; what may both be so is not.

use std::sync::Arc;

use anvil_arithmetic::measure::proof::{ProofAnswer, YesNo};
use anvil_arithmetic::measure::{Method, Reading};
use anvil_rules::job::check::clashes::{clashes, that_may_clash};
use anvil_rules::job::check::loaded::LoadedCheck;
use anvil_rules::sheet::{self, Sheet};
use serde_json::{Value, json};

use crate::common::{blank, measured, sheet as demo, with_reading};

/// The transfer case, whose proof says this of its input float.
fn saying(says: &Value) -> Result<Sheet, Vec<(String, String)>> {
    let mut value = serde_json::to_value(demo("brannoch-r2")).unwrap();
    let checks = value["checks"].as_array_mut().unwrap();
    let free = checks.iter_mut().find(|c| c["key"] == "turns-free");
    free.unwrap()["proof"]["says"] = json!([says]);
    let read = sheet::read(&value.to_string());
    read.map_err(|f| f.into_iter().map(|f| (f.place, f.message)).collect())
}

/// The limits that an answer contradicts, with a float of so many micrometres, in nanometres.
fn told(says: &Value, answer: YesNo, float_um: i64) -> Vec<(i64, bool)> {
    let sheet = Arc::new(saying(says).unwrap());
    let answered = with_reading(
        blank("turns-free"),
        Method::YesNo,
        Reading::Answer(ProofAnswer { answer }),
    );
    let mut float = measured("input-float", float_um * 1_000);
    float.head.way = Some(Method::DialTravel);
    let both = [answered, float];
    let checks = both.map(|r| LoadedCheck::of(r, Arc::clone(&sheet)).unwrap());
    let found = clashes(&checks);
    assert!(
        found
            .iter()
            .all(|c| c.check_key == "input-float" && c.proof_key == "turns-free")
    );
    found.iter().map(|c| (c.limit_nm.nm(), c.tighter)).collect()
}

#[test]
fn a_figure_wholly_beyond_what_a_yes_allows_is_told() {
    let tight = json!({"check": "input-float", "no_tighter": "0.10 mm"});
    let loose = json!({"check": "input-float", "no_looser": "0.30 mm"});
    assert_eq!(told(&tight, YesNo::Yes, 60), [(100_000, true)]);
    assert_eq!(told(&loose, YesNo::Yes, 350), [(300_000, false)]);
    // Allowed, or not surely beyond: within ± 18 of the limit.
    for (says, float) in [(&tight, 150), (&tight, 95), (&loose, 250), (&loose, 305)] {
        assert_eq!(told(says, YesNo::Yes, float), [], "{float}");
    }
    // A no has many reasons.
    assert_eq!(told(&tight, YesNo::No, 60), []);
}

#[test]
fn only_what_the_sheet_names_may_clash() {
    let sheet = saying(&json!({"check": "input-float", "no_tighter": "0.10 mm"})).unwrap();
    assert_eq!(that_may_clash(&sheet), ["turns-free", "input-float"]);
    assert!(that_may_clash(&demo("tolvane-t5")).is_empty());
}

#[test]
fn what_an_answer_cannot_say_is_refused_at_its_field() {
    let fault = |says: Value| {
        let faults = saying(&says).unwrap_err();
        assert_eq!(faults.len(), 1, "{faults:?}");
        let (place, message) = faults.into_iter().next().unwrap();
        assert!(message.len() > 20, "{message}");
        place.rsplit("says/0/").next().unwrap().to_owned()
    };
    assert_eq!(
        fault(json!({"check": "nothing", "no_tighter": "0 mm"})),
        "check"
    );
    assert_eq!(
        fault(json!({"check": "turns-free", "no_tighter": "0 mm"})),
        "check"
    );
    assert_eq!(fault(json!({"check": "input-float"})), "no_tighter");
    let swapped = json!({"check": "input-float", "no_tighter": "0.2 mm", "no_looser": "0.1 mm"});
    assert_eq!(fault(swapped), "no_tighter");
}
