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
        let wiring = link(manifests, interner.freeze(), Policy::default());
        let report = audit(&wiring, &Options::default());
        let mut text = format!("{:?}\n", report.summary);
        for finding in &report.findings {
            writeln!(text, "{} {} {:?}", finding.rule.name, finding.subject, finding.reach).unwrap();
            writeln!(text, "{} {:?}", finding.message, finding.help).unwrap();
            for place in &finding.places {
                let source = &wiring.sources[place.source.index()];
                let position = source.position(place.span.start);
                writeln!(text, "{}:{position:?} {}", source.path, place.role).unwrap();
            }
        }
        text
    })
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
