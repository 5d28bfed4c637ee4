//! The rules' own texts, as they are printed and as pages.

use corvant_core::rules::TEXTS;
use corvant_render::documents;
use corvant_render::out::Out;
use corvant_render::rules::{families, list, one, page};
use corvant_render::text::Layout;
use serde_json::Value;
use std::io;

fn printed(write: impl FnOnce(&mut Out<'_>) -> io::Result<()>) -> String {
    let mut out = Vec::new();
    write(&mut Out::new(&mut out)).unwrap();
    String::from_utf8(out).unwrap()
}

const PLAIN: Layout = Layout { width: None, color: false };

#[test]
fn the_list_has_every_family_once_and_every_rule_below_its_own() {
    let text = printed(|out| list(PLAIN, out));
    let headings: Vec<&str> =
        text.lines().filter(|line| !line.is_empty() && !line.starts_with(' ')).collect();
    assert_eq!(headings.len(), families().len());
    for rule in TEXTS {
        let heading = rule.family.word().replace('_', "-");
        let below = text.split(&format!("{heading}\n")).nth(1).unwrap().split("\n\n").next().unwrap();
        assert!(below.contains(&format!("  {} ", rule.name)), "{} is not below {heading}", rule.name);
    }
}

#[test]
fn the_list_fits_into_narrow_terminals() {
    let text = printed(|out| list(Layout { width: Some(60), color: false }, out));
    assert!(text.lines().all(|line| line.chars().count() <= 60), "{text}");
    // What is broken goes on below the summary.
    let broken = text.lines().find(|line| line.starts_with("            "));
    assert!(broken.is_some_and(|line| line.trim_start().len() < 40), "{text}");
}

#[test]
fn a_rule_is_printed_with_both_examples_as_they_are_written() {
    for rule in TEXTS {
        let text = printed(|out| one(rule, PLAIN, out));
        for example in [rule.faulty, rule.corrected] {
            for line in example.trim_matches('\n').lines().filter(|line| !line.starts_with("//- ")) {
                assert!(text.contains(&format!("  {line}\n")), "{}: {line}", rule.name);
            }
        }
        assert!(text.contains(rule.limits) && text.contains(rule.why), "{text}");
        assert!(!text.contains("//- "), "{text}");
    }
}

#[test]
fn colour_changes_nothing_but_colour() {
    let colored = printed(|out| one(TEXTS[0], Layout { width: None, color: true }, out));
    assert!(colored.contains("\u{1b}[1m"));
    let plain = colored.replace("\u{1b}[1m", "").replace("\u{1b}[36m", "").replace("\u{1b}[0m", "");
    assert_eq!(plain, printed(|out| one(TEXTS[0], PLAIN, out)));
}

#[test]
fn json_holds_what_is_asked_for() {
    let rules: Value =
        serde_json::from_str(&printed(|out| documents::rules::write(&[TEXTS[3]], out))).unwrap();
    let [rule] = rules["checks"].as_array().unwrap().as_slice() else { panic!("one rule: {rules}") };
    let fields: Vec<&String> = rule.as_object().unwrap().keys().collect();
    assert_eq!(
        fields,
        ["name", "family", "severity", "summary", "why", "limits", "fixes", "faulty", "corrected"]
    );
    assert_eq!(rule["name"], TEXTS[3].name);
}

#[test]
fn every_example_on_a_page_is_a_file_of_its_own() {
    for family in families() {
        let page = page(family);
        let blocks = page.matches("```yaml\n# ").count();
        let examples =
            TEXTS.iter().filter(|rule| rule.family == family).flat_map(|rule| [rule.faulty, rule.corrected]);
        assert_eq!(blocks, examples.map(|example| example.matches("//- ").count()).sum::<usize>());
        assert_eq!(page.matches("```").count(), 2 * blocks);
    }
}
