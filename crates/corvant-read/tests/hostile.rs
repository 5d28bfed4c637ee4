//! Whatever a file holds, reading it ends, panics never, and every place lies in the text.

use corvant_core::name::Interner;
use corvant_core::source::Span;
use corvant_read::manifest;
use corvant_testing::messages;
use proptest::prelude::*;

const MANIFEST: &str = include_str!("../../corvant/demo/timetable/timetable.wiring.yaml");

fn check(bytes: Vec<u8>) -> Result<(), TestCaseError> {
    let interner = Interner::default();
    let read = manifest::from_bytes("a.wiring.yaml".to_owned(), bytes, &interner);
    let text = &read.source.text;
    let fits = |span: Span| {
        let (start, end) = (span.start as usize, span.end as usize);
        start <= end && text.is_char_boundary(start) && text.is_char_boundary(end)
    };
    let names = interner.freeze();
    for service in &read.facts.services {
        prop_assert!(fits(service.id.span));
        prop_assert!(!names.text(service.id.name).is_empty());
    }
    prop_assert!(read.facts.parts.needs.iter().all(|need| fits(need.span) && fits(need.slot.span)));
    prop_assert!(read.facts.parts.named.iter().all(|named| fits(named.span)));
    prop_assert!(read.facts.troubles.iter().all(|trouble| fits(trouble.at.0)));
    prop_assert!(read.facts.troubles.iter().all(|trouble| !trouble.message.is_empty()));
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 600, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_bytes_can_be_read(bytes in proptest::collection::vec(any::<u8>(), 0..400)) {
        check(bytes)?;
    }

    #[test]
    fn any_text_of_yaml_signs_can_be_read(text in "[-a-c:{}\\[\\]&*!|>'\"%@#?,~<=. \n\tž]{0,80}") {
        check(text.into_bytes())?;
    }

    #[test]
    fn a_spoilt_manifest_can_be_read(
        edits in proptest::collection::vec((any::<prop::sample::Index>(), "[-a:{}\\[\\]&*'\"#, \n\tž]{0,3}", 0_usize..6), 1..6)
    ) {
        let mut text: Vec<char> = MANIFEST.chars().collect();
        for (at, insert, remove) in edits {
            let start = at.index(text.len());
            let end = (start + remove).min(text.len());
            text.splice(start..end, insert.chars());
        }
        check(text.into_iter().collect::<String>().into_bytes())?;
    }
}

#[test]
fn of_one_kind_of_fault_the_first_hundred_are_told_and_the_others_counted() {
    let fields: String =
        (0..250).map(|n| format!("  a.s{n}: {{ nedes: {{ x: {{ service: a.t{n} }} }} }}\n")).collect();
    let others: String = (0..250).map(|n| format!("  a.t{n}: {{}}\n")).collect();
    let used: String = (0..250).map(|n| format!("      n{n}: {{ service: a.s{n} }}\n")).collect();
    let text = format!(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n{fields}{others}entries:\n  e:\n    needs:\n{used}"
    );
    let found = messages(&text);
    // What is not told hides what it may use all the same: none of those is called unused.
    let mut rules: Vec<&str> = found.iter().map(|found| found.rule).collect();
    rules.dedup();
    assert_eq!(rules, ["unknown-field"]);
    assert_eq!(found.len(), 101);
    let rest = found.iter().find(|found| found.subject == "a.wiring.yaml").expect("the others are counted");
    assert!(rest.text.contains("150 more such faults"), "{rest:#?}");
}

#[test]
fn a_hundred_faults_are_told_one_by_one() {
    let fields: String = (0..100).map(|n| format!("  a.s{n}: {{ typ: velmora.S }}\n")).collect();
    let found = messages(&format!("//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n{fields}"));
    assert_eq!(found.len(), 100);
    assert!(found.iter().all(|found| found.subject.contains(".typ")));
}
