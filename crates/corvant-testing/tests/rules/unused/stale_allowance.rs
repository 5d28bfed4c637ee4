//! `stale-allowance`: an allowance that accepts nothing any more, or whose day has passed.

use corvant_testing::messages_on;

const TEXT: &str = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices: { a.x: {} }\nallow: [{ rule: unused-service, subject: a.x, until: 2027-04-30 }]\nentries: { e: {} }\n";

#[test]
fn the_last_day_still_counts() {
    assert_eq!(messages_on(TEXT, "2027-04-30"), []);
}

#[test]
fn the_day_after_it_is_stale_and_the_finding_is_back() {
    let found = messages_on(TEXT, "2027-05-01");
    let rules: Vec<&str> = found.iter().map(|found| found.rule).collect();
    assert_eq!(rules, ["unused-service", "stale-allowance"]);
    assert!(found[1].text.contains("was to end on 2027-04-30"), "{found:#?}");
}
