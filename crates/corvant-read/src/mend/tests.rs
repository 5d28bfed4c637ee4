use super::*;
use crate::workspace;
use corvant_core::audit::{Options, audit};
use rstest::rstest;

/// Two misspellings on one line, a third that is about the same text as the first, and one elsewhere.
const DEPOT: &str = "
corvant: 1
module: depot
uses: [signals]
services:
  depot.gate: { needs: { yard: { service: depot.yrad }, lamps: { service: depot.lmaps } } }
  depot.door: { needs: { yard: { service: depot.yrad } } }
  depot.yard: { needs: {} }
  depot.lamps: { needs: {} }
entries:
  open-gate: { needs: { gate: { service: depot.gate }, door: { service: depot.door } } }
";

fn look(text: &str, texts: &Texts) -> Result<(Wiring, Report), workspace::WorkspaceError> {
    let text = texts.get("depot.wiring.yaml").map_or(text, |source| &source.text);
    let signals = "corvant: 1\nmodule: signals\nentries: { go: {} }\n";
    let files = [("depot.wiring.yaml", text), ("signals.wiring.yaml", signals)];
    let (wiring, _) = workspace::from_texts(files)?.link();
    let report = audit(&wiring, &Options::default());
    Ok((wiring, report))
}

fn wanted<'a>(rules: &'a [&'static str], subjects: &'a [String], limit: Option<usize>) -> Wanted<'a> {
    Wanted { certainty: Certainty::Certain, rules, subjects, limit }
}

fn subjects(told: &[Told]) -> Vec<&str> {
    told.iter().map(|told| told.subject.as_str()).collect()
}

#[test]
fn all_that_is_certain_is_made_in_as_many_rounds_as_it_takes() {
    let mended = mend(|texts| look(DEPOT, texts), |_| None, &wanted(&[], &[], None)).unwrap();
    assert_eq!(subjects(&mended.made), ["depot.yrad", "depot.lmaps", "depot > signals"]);
    assert_eq!(mended.left_out, []);
    assert!(mended.report.findings.is_empty(), "{:?}", mended.report.findings);
    let file = &mended.texts["depot.wiring.yaml"];
    assert_eq!(file.before, DEPOT);
    assert!(!file.after.contains("yrad") && !file.after.contains("lmaps"), "{}", file.after);
}

#[rstest]
#[case::by_rule(&["unused-use"], &[], None, &["depot > signals"])]
#[case::by_subject(&[], &["depot.lmaps"], None, &["depot.lmaps"])]
#[case::at_most(&[], &[], Some(2), &["depot.yrad", "depot.lmaps"])]
#[case::nothing_is_so(&["unused-use"], &["depot.lmaps"], None, &[])]
fn what_is_not_wanted_is_not_made(
    #[case] rules: &[&'static str],
    #[case] about: &[&str],
    #[case] limit: Option<usize>,
    #[case] expected: &[&str],
) {
    let about: Vec<String> = about.iter().map(|&subject| subject.to_owned()).collect();
    let mended = mend(|texts| look(DEPOT, texts), |_| None, &wanted(rules, &about, limit)).unwrap();
    assert_eq!(subjects(&mended.made), expected);
}

#[test]
fn files_that_are_not_to_be_edited_are_left_alone() {
    let refuse = |path: &str| (path == "depot.wiring.yaml").then(|| "it is read-only".to_owned());
    let mended = mend(|texts| look(DEPOT, texts), refuse, &wanted(&[], &[], None)).unwrap();
    assert!(mended.made.is_empty() && mended.texts.is_empty());
    assert_eq!(mended.left_out.len(), 3);
    let refused = Why::Refused { file: "depot.wiring.yaml".to_owned(), why: "it is read-only".to_owned() };
    assert!(mended.left_out.iter().all(|(_, why)| *why == refused));
}

/// Whatever an audit says of some of the edited texts, all the others are made, and each that is not is named.
#[rstest]
#[case::the_first("depot.yard }, lamps")]
#[case::the_second("depot.lamps }")]
fn what_cannot_be_read_after_an_edit_is_left_out_alone(#[case] breaks: &str) {
    let look = |texts: &Texts| {
        let is_broken = texts.get("depot.wiring.yaml").is_some_and(|file| file.text.contains(breaks));
        look(DEPOT, texts)
            .map_err(|error| error.to_string())
            .and_then(|looked| if is_broken { Err("it is broken".to_owned()) } else { Ok(looked) })
    };
    let mended = mend(look, |_| None, &wanted(&[], &[], None)).unwrap();
    assert_eq!(mended.made.len(), 2, "{:?}", mended.made);
    assert_eq!(mended.left_out.len(), 1);
    assert_eq!(mended.left_out[0].1, Why::Unreadable("it is broken".to_owned()));
    assert!(!mended.texts["depot.wiring.yaml"].after.contains(breaks));
}

#[test]
fn a_workspace_that_cannot_be_read_is_an_error() {
    let look = |_: &Texts| Err::<(Wiring, Report), _>("no folder".to_owned());
    assert_eq!(mend(look, |_| None, &wanted(&[], &[], None)).unwrap_err(), "no folder");
}
