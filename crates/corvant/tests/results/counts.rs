//! What is shown of very many findings.

use crate::support::{folder, run};
use crate::{demo, findings};
use rstest::rstest;
use std::collections::BTreeMap;

/// A workspace with so many findings of one rule, and one of another.
fn many(count: usize) -> String {
    let needs: String = (0..count).map(|n| format!("      s{n}: {{ service: web.gone{n:05} }}\n")).collect();
    format!("corvant: 1\nmodule: web\nentries:\n  map:\n    needs:\n{needs}    need: 1\n")
}

#[rstest]
#[case::rule("rule", |finding: &serde_json::Value| finding["rule"].as_str().unwrap().to_owned())]
#[case::module("module", |finding: &serde_json::Value| {
    let file = finding["places"][0]["file"].as_str().unwrap();
    file.split('/').nth(1).unwrap_or("no module").to_owned()
})]
fn tables_count_all_findings(#[case] by: &str, #[case] of: fn(&serde_json::Value) -> String) {
    let folder = demo();
    let mut expected: BTreeMap<String, [usize; 3]> = BTreeMap::new();
    for finding in findings(folder.path(), "velmora") {
        let severity = ["error", "warning", "note"].iter().position(|word| finding["severity"] == **word);
        expected.entry(of(&finding)).or_default()[severity.unwrap()] += 1;
    }
    let outcome = run(&["audit", "velmora", "--by", by], folder.path());
    assert_eq!(outcome.status, 1);
    let table = outcome.stdout.lines().skip(1).take_while(|line| !line.ends_with(&format!("{by}s")));
    let number = |word: &str| if word == "·" { 0 } else { word.parse().unwrap() };
    let rows: BTreeMap<String, [usize; 3]> = table
        .map(|line| {
            let words: Vec<&str> = line.split_whitespace().collect();
            let is_number = |word: &&str| *word == "·" || word.parse::<usize>().is_ok();
            let first = words.iter().position(is_number).unwrap();
            (words[..first].join(" "), [0, 1, 2].map(|column| number(words[first + column])))
        })
        .collect();
    if by == "rule" {
        assert_eq!(rows, expected, "{}", outcome.stdout);
    } else {
        let sum = |of: &BTreeMap<String, [usize; 3]>| of.values().flatten().sum::<usize>();
        assert_eq!(sum(&rows), sum(&expected), "{}", outcome.stdout);
        assert_eq!(rows["depot"], expected["depot"], "{}", outcome.stdout);
    }
    assert!(!outcome.stdout.contains("error 1 of"), "the table stands in place of the findings");
    assert!(outcome.stdout.contains("33 errors"), "what it all comes to is said as ever");
}

#[test]
fn the_worst_of_each_stands_in_its_row() {
    let folder = folder(&[("web.wiring.yaml", &many(30))]);
    let outcome = run(&["audit", "--by", "family"], folder.path());
    let row = outcome.stdout.lines().find(|line| line.starts_with("missing ")).unwrap();
    assert_eq!(
        row.split_whitespace().collect::<Vec<_>>(),
        ["missing", "30", "·", "·", "missing-service:", "web.gone00000", "web.wiring.yaml:6"]
    );
}

#[rstest]
#[case::some(&["--limit", "2"], 2, true)]
#[case::none(&["--limit", "0"], 0, true)]
#[case::all(&[], 31, false)]
#[case::more_than_there_are(&["--limit", "100"], 31, false)]
#[case::below_a_table(&["--by", "rule", "--limit", "3"], 3, true)]
fn as_many_are_shown_as_asked_for_and_all_are_counted(
    #[case] options: &[&str],
    #[case] shown: usize,
    #[case] has_more: bool,
) {
    let folder = folder(&[("web.wiring.yaml", &many(30))]);
    let text = run(&[&["audit"], options].concat(), folder.path()).stdout;
    assert_eq!(text.lines().filter(|line| line.contains(" of 31  ")).count(), shown, "{text}");
    assert_eq!(text.contains(&format!("… and {} findings more", 31 - shown)), has_more, "{text}");
    assert!(text.contains("31 errors"), "{text}");
}

#[test]
fn programs_get_all_whatever_is_shown() {
    let folder = folder(&[("web.wiring.yaml", &many(30))]);
    let report = run(&["audit", "--limit", "2", "--format", "json"], folder.path()).json();
    assert_eq!(report["findings"].as_array().unwrap().len(), 31);
}
