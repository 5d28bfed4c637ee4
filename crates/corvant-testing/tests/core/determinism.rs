//! The same facts in any order, read on any number of threads, give the same report to the byte.

use corvant_core::audit::{Options, audit};
use corvant_core::name::Interner;
use corvant_core::wiring::{Manifest, Policy, link};
use corvant_read::manifest;
use corvant_testing::corpus::{Random, corpus};
use proptest::prelude::*;
use rayon::prelude::*;
use std::fmt::Write;

/// All that a renderer could write of a report.
fn report(files: &[(String, String)], threads: usize) -> String {
    let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
    let interner = Interner::default();
    pool.install(|| {
        let read =
            |(path, text): &(String, String)| manifest::from_text(path.clone(), text.clone(), &interner);
        let manifests: Vec<Manifest> = files.par_iter().map(read).collect();
        let wiring = link(manifests, interner.freeze().into(), Policy::default());
        let report = audit(&wiring, &Options::default());
        let mut text = format!("{:?}\n", report.summary);
        for finding in &report.findings {
            writeln!(text, "{} {} {:?}", finding.rule.name, finding.subject, finding.reach).unwrap();
            writeln!(text, "{} {:?}", finding.message, finding.fixes).unwrap();
            for place in &finding.places {
                let source = &wiring.sources[place.source.index()];
                let position = source.position(place.span.start);
                writeln!(text, "{}:{position:?} {}", source.path, place.role).unwrap();
            }
        }
        text
    })
}

/// A line of services, each of which lacks something of its own: most of the faults reach further than a search
/// that is cut short, and all of them together further than the work that is set aside.
#[test]
fn reach_is_the_same_on_any_number_of_threads_and_exact_for_what_is_near() {
    const LINE: u32 = 3_000;
    let mut text = "corvant: 1\nmodule: a\nservices:\n".to_owned();
    for number in 0..LINE {
        let before = number.checked_sub(1).map(|before| format!("before: {{ service: s{before} }}, "));
        let before = before.unwrap_or_default();
        writeln!(text, "  s{number}: {{ needs: {{ {before}gone: {{ contract: Gone{number} }} }} }}").unwrap();
    }
    writeln!(text, "entries: {{ e: {{ needs: {{ last: {{ service: s{} }} }} }} }}", LINE - 1).unwrap();
    let files = [("a.wiring.yaml".to_owned(), text)];
    let expected = report(&files, 1);
    for threads in [2, 5] {
        assert_eq!(report(&files, threads), expected);
    }
    let wiring = corvant_testing::wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    let found = audit(&wiring, &Options::default());
    let (mut exact, mut cut) = (0, 0);
    for finding in found.findings.iter().filter(|finding| finding.rule.name == "missing-implementation") {
        let number: u32 = finding.subject.trim_start_matches("Gone").parse().unwrap();
        let (reaches, told) = (LINE - number, finding.reach.services);
        assert!(told <= reaches && (finding.reach.at_least || told == reaches), "{number}: {told}");
        assert!(reaches > 100 || !finding.reach.at_least, "{number} is near");
        *(if finding.reach.at_least { &mut cut } else { &mut exact }) += 1;
    }
    assert!(exact > 100 && cut > 100 && exact + cut == LINE, "{exact} exact, {cut} cut short");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn order_and_threads_never_change_a_byte(seed in 0_u64..1_000_000, shuffle in any::<u64>(), threads in 1_usize..6) {
        let mut files: Vec<(String, String)> =
            corpus(600, true, seed).map(|file| (file.path, file.text)).collect();
        let expected = report(&files, 1);
        let mut random = Random::new(shuffle);
        for last in (1..files.len()).rev() {
            files.swap(last, random.below(last + 1));
        }
        prop_assert_eq!(report(&files, threads), expected);
    }
}
