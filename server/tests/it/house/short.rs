//! Acts, written short: in tests, `…/checks/main-float/fit` is the act `fit` on that check, `…/build` one with the build.
//! What is sent is an act, as the screens send it.

use serde_json::{Map, Value, json};

/// The address and body of an act that is written short, where it is one.
pub fn act(path: &str, body: &Value) -> Option<(String, Value)> {
    let (before, rest) = path.split_once("/jobs/")?;
    let segments: Vec<&str> = rest.split('/').collect();
    let mut fields = body.as_object()?.clone();
    let who = fields.remove("who");
    let with = |name: &str, mut fields: Map<String, Value>| {
        fields.insert("act".into(), json!(name));
        json!(fields)
    };
    let act = match segments[1..] {
        ["checks", check, name] => {
            let name = match name {
                "pack" => "lay",
                "let-go" => "let_go",
                "undo-fit" => "undo_fit",
                "way" | "bench" | "fitted" | "aim" | "usual" | "choose" | "ground" | "fit"
                | "shims" | "sign" | "reopen" => name,
                _ => return None,
            };
            json!({"of": "check", "check": check, "did": with(name, fields)})
        }
        ["build"] => json!({"of": "build", "did": fields.remove("act")?}),
        ["parts"] => json!({"of": "part", "did": fields.remove("act")?}),
        ["donors", "take"] => json!({"of": "donor", "did": with("take", fields)}),
        ["shelf"] => json!({"of": "donor", "did": with("shelve", fields)}),
        ["identity"] => {
            let answer = fields.remove("answer")?;
            let did = if fields.get("taken_back") == Some(&json!(true)) {
                json!({"act": "take_back", "question": answer["question"]})
            } else {
                with("answer", answer.as_object()?.clone())
            };
            json!({"of": "identity", "did": did})
        }
        ["notes", note, "marks"] => {
            fields.insert("note_no".into(), json!(note.parse::<i64>().ok()?));
            json!({"of": "job", "did": with("mark_note", fields)})
        }
        ["card"] => json!({"of": "job", "did": with("card", fields)}),
        ["take-back"] => json!({"of": "job", "did": with("take_back", fields)}),
        ["put-away"] => json!({"of": "job", "did": with("put_away", fields)}),
        ["bring-back"] => json!({"of": "job", "did": with("bring_back", fields)}),
        ["hand-over"] => json!({"of": "job", "did": with("hand_over", fields)}),
        _ => return None,
    };
    let mut sent = json!({"act": act});
    if let Some(who) = who {
        sent["who"] = who;
    }
    Some((format!("{before}/jobs/{}/acts", segments[0]), sent))
}
