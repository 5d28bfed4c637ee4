//! What holds for every rule alike: its texts say something, and its two examples show what they are there to show.

use corvant_core::rules::TEXTS;
use corvant_testing::messages;

#[test]
fn texts_say_something() {
    for rule in TEXTS {
        for (what, text) in [("summary", rule.summary), ("why", rule.why), ("limits", rule.limits)] {
            assert!(text.len() > 20, "{}: {what} is too short", rule.name);
            assert!(!text.contains("  "), "{}: {what} has runs of spaces", rule.name);
        }
        assert!(rule.summary.len() < 100 && !rule.summary.ends_with('.'), "{}: summary", rule.name);
        assert!(rule.why.ends_with('.') && rule.limits.ends_with('.'), "{}: sentences", rule.name);
    }
}

#[test]
fn the_faulty_example_fires_its_rule_and_nothing_else() {
    for rule in TEXTS {
        let found = messages(rule.faulty);
        let rules: Vec<&str> = found.iter().map(|found| found.rule).collect();
        assert_eq!(rules, [rule.name], "{found:#?}");
        assert_eq!(found[0].severity, rule.severity.word());
    }
}

#[test]
fn the_corrected_example_fires_nothing() {
    for rule in TEXTS {
        assert_eq!(messages(rule.corrected), [], "{}", rule.name);
    }
}
