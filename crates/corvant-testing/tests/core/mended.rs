//! Fixes that are made, in workspaces with every kind of fault and in every syntax: what they are for is gone, nothing
//! else comes, and nothing else of the files is touched.

use corvant_core::audit::{Options, Report, audit};
use corvant_core::finding::{Certainty, Finding};
use corvant_core::wiring::Wiring;
use corvant_read::edit::spell_out;
use corvant_read::mend::{Mended, Texts, Wanted, Why, mend};
use corvant_read::workspace::{self, WorkspaceError};
use corvant_testing::corpus::{File, Made};
use corvant_testing::house::house;
use corvant_testing::syntaxes::{as_json, as_toml, rewritten};
use rstest::rstest;
use std::collections::BTreeMap;

type Files = Vec<(String, String)>;

/// Made files as they are, in YAML.
fn yaml(made: Made) -> Files {
    made.files().map(|File { path, text, .. }| (path, text)).collect()
}

fn json(made: Made) -> Files {
    rewritten(yaml(made), "json", as_json)
}

fn toml(made: Made) -> Files {
    rewritten(yaml(made), "toml", as_toml)
}

/// The same read by a custom reader.
fn of_a_house(made: Made) -> Files {
    house(made).map(|File { path, text, .. }| (path, text)).collect()
}

/// With the line ends of another system.
fn carriage_returns(made: Made) -> Files {
    yaml(made).into_iter().map(|(path, text)| (path, text.replace('\n', "\r\n"))).collect()
}

fn look(files: &Files, texts: &Texts) -> Result<(Wiring, Report), WorkspaceError> {
    let text = |(path, text): &(String, String)| {
        (path.clone(), texts.get(path).map_or_else(|| text.clone(), |file| file.text.clone()))
    };
    let files: Files = files.iter().map(text).collect();
    let workspace = workspace::from_texts(files.iter().map(|(path, text)| (path.as_str(), text.as_str())))?;
    let (wiring, _) = workspace.link();
    let report = audit(&wiring, &Options::default());
    Ok((wiring, report))
}

fn mended(files: &Files, certainty: Certainty) -> Mended {
    let wanted = Wanted { certainty, rules: &[], subjects: &[], limit: None };
    mend(|texts| look(files, texts), |_| None, &wanted).expect("the workspace can be read")
}

/// How many findings there are by rule and subject.
fn counted<'f>(findings: impl IntoIterator<Item = &'f Finding>) -> BTreeMap<(&'static str, String), usize> {
    let mut counts = BTreeMap::new();
    for finding in findings {
        *counts.entry((finding.rule.name, finding.subject.clone())).or_default() += 1;
    }
    counts
}

/// Lines of a file that no edit of any finding touches stay, in their order.
fn lines_outside_stay(files: &Files, mended: &Mended, wiring: &Wiring, report: &Report) {
    let fixes = report.findings.iter().flat_map(|finding| &finding.fixes);
    let edits: Vec<_> = fixes.flat_map(|fix| &fix.edits).collect();
    for (path, text) in files {
        let Some(file) = mended.texts.get(path) else { continue };
        assert_eq!(&file.before, text, "{path}");
        let spans = edits.iter().filter(|edit| wiring.path(edit.source) == path).map(|edit| edit.span);
        let spans: Vec<_> = spans.collect();
        let mut after = file.after.split_inclusive('\n');
        let mut start = 0;
        for line in text.split_inclusive('\n') {
            let end = start + line.len();
            let is_edited = spans.iter().any(|span| span.start as usize <= end && start <= span.end as usize);
            assert!(is_edited || after.any(|left| left == line), "{path}: {line:?} is gone");
            start = end;
        }
    }
}

#[rstest]
#[case::yaml(yaml, 0..60)]
#[case::json(json, 60..110)]
#[case::toml(toml, 110..160)]
#[case::of_a_house(of_a_house, 160..220)]
#[case::carriage_returns(carriage_returns, 220..250)]
fn certain_fixes_take_their_findings_away_and_nothing_else(
    #[case] made: fn(Made) -> Files,
    #[case] seeds: std::ops::Range<u64>,
    #[values(Certainty::Certain, Certainty::Likely)] certainty: Certainty,
) {
    let mut total = BTreeMap::new();
    for seed in seeds {
        let faults = 1 + (seed % 4) as usize;
        let files = made(Made { services: 300, faults, stages: (seed % 3) as usize, seed });
        let (wiring, mut report) = look(&files, &Texts::default()).expect("it can be read");
        spell_out(&mut report.findings, &wiring);
        let mended = mended(&files, certainty);
        for told in &mended.made {
            *total.entry(told.rule.name).or_insert(0) += 1;
        }
        let is_left = |finding: &&Finding| {
            finding.fixes.iter().any(|fix| fix.certainty == Certainty::Certain && !fix.edits.is_empty())
        };
        if certainty == Certainty::Certain {
            // What one fault of a file hides of another would come to light.
            let is_meant = |why: &Why| faults > 1 && matches!(why, Why::Brings { .. });
            let unmeant: Vec<_> = mended.left_out.iter().filter(|(_, why)| !is_meant(why)).collect();
            let unmeant: Vec<_> =
                unmeant.iter().map(|(told, why)| (told.rule.name, &told.subject, why)).collect();
            assert!(unmeant.is_empty(), "seed {seed}: {unmeant:#?}");
            let left = mended.report.findings.iter().filter(is_left).count();
            assert_eq!(left, mended.left_out.len(), "seed {seed}");
        }
        let before = counted(&report.findings);
        for (finding, count) in counted(&mended.report.findings) {
            assert!(count <= before.get(&finding).copied().unwrap_or(0), "seed {seed}: {finding:?} is new");
        }
        lines_outside_stay(&files, &mended, &wiring, &report);
        let after = |(path, text): &(String, String)| {
            (path.clone(), mended.texts.get(path).map_or_else(|| text.clone(), |file| file.after.clone()))
        };
        let again = self::mended(&files.iter().map(after).collect(), certainty);
        assert_eq!((again.made, again.texts.len()), (Vec::new(), 0), "seed {seed}: a second run");
    }
    assert!(total.len() >= 5, "{total:?}");
}
