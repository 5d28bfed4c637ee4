//! Accounts of readers, as people and programs get them.

use corvant_core::account::{Account, LeftOver, Lookalike};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use corvant_render::accounts;
use corvant_render::out::Out;
use corvant_render::text::Layout;
use serde_json::{Value, json};

fn left(path: &str, count: usize, line: u32) -> LeftOver {
    LeftOver { path: path.to_owned(), count, line }
}

fn all() -> (Vec<Account>, Vec<BlindSpot>) {
    let own = Account {
        path: "a.wiring.yaml".to_owned(),
        module: Some("a".to_owned()),
        taken: vec![("services", 1), ("needs", 2)],
        ..Account::default()
    };
    let house = Account {
        path: "b\u{1b}[31m.ini".to_owned(),
        reader: Some("house".to_owned()),
        taken: vec![("tags on services", 1), ("entries", 1)],
        left_over: (0..14).map(|number| left(&format!("$.k{number}"), number + 1, 7)).collect(),
        lookalikes: vec![
            Lookalike { text: "~a b".to_owned(), is_id: false, line: 8 },
            Lookalike { text: "depot.gate".to_owned(), is_id: true, line: 9 },
        ],
        ..Account::default()
    };
    let broken = Account {
        path: "c.ini".to_owned(),
        reader: Some("house".to_owned()),
        unread: Some("it could not be read".to_owned()),
        ..Account::default()
    };
    let spot = BlindSpot {
        kind: BlindSpotKind::IdleReader,
        subject: "idle".to_owned(),
        message: "no file is called x".to_owned(),
        places: Vec::new(),
    };
    (vec![own, house, broken], vec![spot])
}

fn text(color: bool) -> String {
    let (accounts, spots) = all();
    let mut out = Vec::new();
    accounts::text(&accounts, &spots, Layout { width: None, color }, &mut Out::new(&mut out)).unwrap();
    String::from_utf8(out).unwrap()
}

#[test]
fn people_read_what_was_taken_and_what_was_left() {
    let text = text(false);
    let lines: Vec<&str> = text.lines().collect();
    assert_eq!(
        lines[..3],
        ["a.wiring.yaml", "  read by  Corvant's own format, module a", "  took     1 service, 2 needs"]
    );
    assert_eq!(lines[5], "  took     1 tag on services, 1 entry");
    assert_eq!(lines[6], "  left     $.k0  1 value, first in line 7");
    assert_eq!(lines[7], "           $.k1  2 values, first in line 7");
    assert_eq!(lines[19], "           $.k13  14 values, first in line 7");
    assert_eq!(lines[20], "  perhaps  ~a b  looks like a reference, and is none, in line 8");
    assert_eq!(lines[21], "           depot.gate  is the id of a service, and no reference, in line 9");
    assert_eq!(lines[24], "  unread   it could not be read");
    assert_eq!(
        lines[26..],
        [
            "Corvant's own format: 1 file, 3 things taken, nothing left over",
            "house: 2 files, 2 things taken, 105 values left over",
            "not looked at:",
            "  idle: no file is called x",
        ]
    );
}

#[test]
fn what_a_terminal_would_act_on_is_never_written() {
    assert!(!text(false).contains('\u{1b}'));
    assert!(text(true).contains("\u{1b}[1ma.wiring.yaml"), "{}", text(true));
    assert!(!text(true).contains("\u{1b}[31m"));
}

#[test]
fn programs_get_all_of_it() {
    let (accounts, spots) = all();
    let mut out = Vec::new();
    corvant_render::documents::accounts::write(&accounts, &spots, &mut Out::new(&mut out)).unwrap();
    let value: Value = serde_json::from_slice(&out).unwrap();
    assert_eq!(value["files"].as_array().unwrap().len(), 3);
    assert_eq!(value["files"][0]["reader"], Value::Null);
    assert_eq!(value["files"][0]["taken"], json!({ "services": 1, "needs": 2 }));
    assert_eq!(value["files"][1]["left_over"].as_array().unwrap().len(), 14);
    assert_eq!(value["files"][1]["left_over"][1], json!({ "path": "$.k1", "values": 2, "line": 7 }));
    assert_eq!(value["blind_spots"][0]["kind"], "idle-reader");
}
