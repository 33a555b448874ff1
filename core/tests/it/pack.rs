//! Clutch packs: order, counts, and the clearance that they leave.

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::units::length::Length;
use anvil_rules::drawing::draft::draft;
use anvil_rules::job::check::spec::Spec;
use anvil_rules::sheet::PartKind::{
    self, Friction, PressurePlate, SnapRing, Spacer, Steel, WavePlate,
};
use anvil_rules::sheet::pack::{in_words, laid_faults, order_faults, thumb};
use anvil_rules::sheet::{Pack, doubts, read};
use proptest::prelude::*;
use serde_json::{Value, json};

fn um(um: i64) -> String {
    format!("{um} µm")
}

fn pack(groove: i64, plates: &[(PartKind, i64)]) -> Pack {
    let plates: Vec<Value> = plates
        .iter()
        .map(|(kind, t)| json!({"kind": kind, "thickness": um(*t)}))
        .collect();
    serde_json::from_value(json!({
        "key": "p", "name": "Pack", "groove_depth": um(groove), "plates": plates, "check": "c"
    }))
    .unwrap()
}

/// A sheet with one pack, signed off by its one check.
fn sheet(pack: &Value) -> Value {
    json!({
        "format": "dry-anvil-sheet", "version": 1, "key": "auto", "name": "An automatic", "kind": "automatic",
        "unit": "mm",
        "shafts": [{"key": "s", "name": "Shaft", "parts": [{"key": "d", "name": "Drum", "kind": "drum", "width": "40 mm"}]}],
        "checks": [{"key": "c", "name": "Pack clearance", "kind": "clutch_pack_clearance", "method": "stack_sum",
            "window": {"low": "1 mm", "high": "2 mm"}, "rule": "about a spark plug gap"}],
        "packs": [pack]
    })
}

fn six() -> Value {
    let mut plates = vec![json!({"kind": "wave_plate", "thickness": "1.5 mm"})];
    for _ in 0..6 {
        plates.push(json!({"kind": "steel", "thickness": "1.8 mm", "tolerance": "0.02 mm"}));
        plates.push(json!({"kind": "friction", "thickness": "2.0 mm"}));
    }
    plates.push(json!({"kind": "pressure_plate", "thickness": "4.5 mm"}));
    plates.push(json!({"kind": "snap_ring", "thickness": "1.6 mm"}));
    json!({"key": "p", "name": "Forward", "groove_depth": "31.9 mm", "plates": plates, "frictions": 6, "steels": 6,
        "return_springs": 24, "check": "c"})
}

fn faults(change: impl FnOnce(&mut Value)) -> Vec<(String, String)> {
    let mut pack = six();
    change(&mut pack);
    let found = draft(&sheet(&pack)).faults;
    found.into_iter().map(|f| (f.place, f.message)).collect()
}

#[test]
fn a_pack_is_summed_and_its_terms_give_the_same() {
    let read = read(&sheet(&six()).to_string()).unwrap();
    let pack = read.pack_of("c").unwrap();
    // 31.9 − (1.5 + 6 × 3.8 + 4.5 + 1.6) = 1.5.
    assert_eq!(pack.clearance(), Length::from_nm(1_500_000));
    let terms = read.terms_of(&read.checks[0]);
    let sum: i64 = terms
        .iter()
        .map(|t| {
            if t.opens {
                t.length_nm.nm()
            } else {
                -t.length_nm.nm()
            }
        })
        .sum();
    assert_eq!(sum, 1_500_000);
    let steels = terms
        .iter()
        .find(|t| t.what == "6 steels, together")
        .unwrap();
    assert_eq!(steels.length_nm, Length::from_nm(10_800_000));
    // Limits of plates of one making are added.
    assert_eq!(steels.tolerance_nm, Some(Length::from_nm(120_000)));
    assert_eq!(
        in_words(&pack.kinds()),
        "wave plate, 6 × (steel, friction), pressure plate, snap ring"
    );
    let drawn = pack.drawn();
    assert_eq!(
        (drawn.frictions, drawn.steels, drawn.faults.len()),
        (6, 6, 0)
    );
    // 0.010 in a friction, from memory: 0.060 in.
    assert_eq!(drawn.thumb.unwrap().at_nm.to_string(), "1.524 mm");
    assert_eq!(thumb(0), None);
}

#[test]
fn wrong_order_and_wrong_counts_are_named_where_they_lie() {
    assert_eq!(faults(|_| {}), []);
    let one = |faults: Vec<(String, String)>, place: &str, says: &str| {
        assert_eq!(faults.len(), 1, "{faults:?}");
        assert_eq!(faults[0].0, place);
        assert!(faults[0].1.contains(says), "{}", faults[0].1);
    };
    one(
        faults(|p| p["frictions"] = json!(7)),
        "/packs/0/frictions",
        "6 frictions are laid and the sheet says 7",
    );
    one(
        faults(|p| p["plates"][13]["kind"] = json!("gear")),
        "/packs/0/plates/13/kind",
        "in a pack lie",
    );
    one(
        faults(|p| p["groove_depth"] = json!("25 mm")),
        "/packs/0/groove_depth",
        "thicker than the drum is deep",
    );
    one(
        faults(|p| p["plates"][2]["thickness"] = json!("0 mm")),
        "/packs/0/plates/2/thickness",
        "more than nothing",
    );
    one(
        faults(|p| p["check"] = json!("none"))
            .into_iter()
            .filter(|f| f.0 != "/checks/0/stack")
            .collect(),
        "/packs/0/check",
        "no check has the key",
    );
    one(
        faults(|p| p["springs_fitted"] = json!(30)),
        "/packs/0/springs_fitted",
        "30 springs do not go into 24 pockets",
    );
    one(
        faults(|p| p["plates"][1]["free"] = json!("2 mm")),
        "/packs/0/plates/1/free",
        "only a wave plate springs",
    );
    one(
        faults(|p| p["plates"][0]["free"] = json!("1.4 mm")),
        "/packs/0/plates/0/free",
        "higher free than compressed",
    );
}

/// A sheet may mean an odd order; its writer says why, and a pack laid so is right then.
#[test]
fn an_odd_order_on_the_sheet_is_asked_about_and_may_be_meant() {
    let mut pack = six();
    pack["plates"].as_array_mut().unwrap().swap(1, 2);
    assert_eq!(draft(&sheet(&pack)).faults, []);
    let mut whole = sheet(&pack);
    let found = doubts(&read(&whole.to_string()).unwrap());
    // Friction first: then the steel meets a steel.
    assert_eq!(found.len(), 1, "{found:?}");
    assert_eq!(found[0].place, "/packs/0/plates/3/kind");
    assert_eq!(found[0].about, "plate p 4");
    whole["waived"] = json!([{"about": "plate p 4", "why": "paired steels, by the book"}]);
    let meant = read(&whole.to_string()).unwrap();
    assert_eq!(
        doubts(&meant)[0].why.as_deref(),
        Some("paired steels, by the book")
    );
    let of_sheet = meant.pack_of("c").unwrap();
    assert_eq!(of_sheet.laid_faults(&of_sheet.kinds()), []);
    // Laid as another book would have it, it is not as this one has it.
    let usual: Pack = serde_json::from_value(six()).unwrap();
    assert!(!of_sheet.laid_faults(&usual.kinds()).is_empty());
    // A cushion plate at the outer end, and two rings with a spacer between, are no odd order.
    let cushioned = [
        Steel, Friction, Steel, Friction, WavePlate, SnapRing, Spacer, SnapRing,
    ];
    assert_eq!(order_faults(&cushioned), []);
}

/// Lifted by hand a pack lies against its wave plate's free height: 0.35 mm more clearance once that is pressed flat.
#[test]
fn a_pack_lifted_by_hand_lies_against_the_free_wave_plate() {
    let mut pack = six();
    pack["plates"][0]["free"] = json!("1.85 mm");
    let sheet = read(&sheet(&pack).to_string()).unwrap();
    let spec = Spec::of(&sheet, "c").unwrap();
    let by = |method| {
        spec.adjustments(method)
            .iter()
            .map(|a| a.by.nm())
            .sum::<i64>()
    };
    assert_eq!(by(Method::Feeler), 350_000);
    assert_eq!(by(Method::DialTravel), 350_000);
    // A sum is made with the compressed height already.
    assert_eq!(by(Method::StackSum), 0);
}

#[test]
fn what_is_laid_is_told_against_the_sheet() {
    let sheet = [
        WavePlate,
        Steel,
        Friction,
        Steel,
        Friction,
        PressurePlate,
        SnapRing,
    ];
    let says = |laid: &[PartKind], plate: Option<usize>, words: &str| {
        let found = laid_faults(laid, &sheet);
        assert!(
            found
                .iter()
                .any(|f| f.plate == plate && f.message.contains(words)),
            "{found:?}"
        );
    };
    assert_eq!(laid_faults(&sheet, &sheet), []);
    says(
        &[Steel, Friction, Friction],
        Some(2),
        "two frictions lie together",
    );
    says(&[Steel, Steel], Some(1), "two steels lie together");
    says(
        &[Steel, Friction, WavePlate, Steel, Friction],
        Some(2),
        "not among the frictions",
    );
    says(
        &[Steel, Friction, PressurePlate, Steel, Friction],
        Some(2),
        "at an end",
    );
    says(
        &[Steel, Friction, SnapRing, Steel],
        Some(3),
        "outside the snap ring",
    );
    says(
        &[WavePlate, Steel, Friction, PressurePlate, SnapRing],
        None,
        "1 friction is laid and the sheet says 2",
    );
    says(
        &[Steel, Friction, Steel, Friction, PressurePlate, SnapRing],
        None,
        "0 wave plates are laid",
    );
    says(
        &[WavePlate, Friction, Steel, Friction, Steel],
        Some(1),
        "the sheet has a steel here",
    );
}

proptest! {
    /// A pack's clearance is linear in each plate: a plate so much thicker takes so much off, and nothing else.
    #[test]
    fn a_clearance_is_linear_in_each_plate(
        thicknesses in prop::collection::vec(500_i64..6_000, 1..30),
        pick in any::<prop::sample::Index>(),
        more in -400_i64..4_000,
    ) {
        let kinds = [Steel, Friction];
        let plates: Vec<_> = thicknesses.iter().enumerate().map(|(i, t)| (kinds[i % 2], *t)).collect();
        let before = pack(300_000, &plates);
        let mut thicker = plates.clone();
        let i = pick.index(plates.len());
        thicker[i].1 += more;
        let after = pack(300_000, &thicker);
        prop_assert_eq!(after.clearance().nm(), before.clearance().nm() - more * 1_000);
        prop_assert_eq!(order_faults(&before.kinds()), vec![]);
    }

    /// Whatever is laid, it is right only where it is what the sheet has.
    #[test]
    fn only_the_sheets_own_order_has_no_fault(swap in (0_usize..9, 0_usize..9)) {
        let sheet = [WavePlate, Steel, Friction, Steel, Friction, Steel, Friction, PressurePlate, SnapRing];
        let mut laid = sheet;
        laid.swap(swap.0, swap.1);
        prop_assert_eq!(laid_faults(&laid, &sheet).is_empty(), laid == sheet, "{:?}", laid);
    }
}

#[test]
fn a_pack_is_drawn_as_it_is_laid_and_its_faults_come_in_the_order_of_the_plates() {
    let pack: Pack = serde_json::from_value(six()).unwrap();
    // As on the sheet, it is what the sheet draws.
    let drawn = pack.drawn_as(&pack.kinds());
    assert_eq!(format!("{drawn:?}"), format!("{:?}", pack.drawn()));
    // One friction short and two steels together: what is left of the groove is by that much more.
    let laid = [
        WavePlate,
        Steel,
        Friction,
        Steel,
        Steel,
        Friction,
        PressurePlate,
        SnapRing,
    ];
    let drawn = pack.drawn_as(&laid);
    assert_eq!(
        (drawn.frictions, drawn.steels, drawn.plates.len()),
        (2, 3, 8)
    );
    let filled: i64 = drawn
        .plates
        .iter()
        .map(|p| p.to_nm.nm() - p.from_nm.nm())
        .sum();
    assert_eq!(drawn.groove_nm.nm() - filled, drawn.clearance_nm.nm());
    // Four pairs of 3.8 fewer, but for one steel of 1.8.
    assert_eq!(
        drawn.clearance_nm.nm(),
        1_500_000 + 4 * 3_800_000 - 1_800_000
    );
    let at: Vec<_> = drawn.faults.iter().map(|f| f.plate).collect();
    assert_eq!(at, [Some(4), None, None], "{:?}", drawn.faults);
    // Two faults that are found by different rules stand as their plates do.
    let laid = [Steel, WavePlate, Friction, Friction];
    let plates: Vec<_> = pack
        .laid_faults(&laid)
        .iter()
        .filter_map(|f| f.plate)
        .collect();
    assert_eq!(plates, [0, 3]);
    // A kind that the sheet has none of is drawn all the same.
    assert_eq!(pack.drawn_as(&[PartKind::Spacer]).plates.len(), 1);
}
