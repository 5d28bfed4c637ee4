//! Work is counted in steps, not in time: it grows with the input and no faster, whatever its shape.

use corvant_core::answers::show::show;
use corvant_core::answers::{Kind, Subject, View};
use corvant_core::audit::{Options, audit};
use corvant_core::work;
use corvant_testing::shapes::Shape;
use rstest::rstest;

/// Steps that reading, linking and auditing a workspace of a shape take, and how many findings it has.
fn steps(shape: Shape, size: usize) -> (u64, usize) {
    let files: Vec<(String, String)> = shape.files(size).collect();
    let texts = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let (report, steps) = work::measured(|| {
        let wiring = corvant_testing::wiring(texts);
        let report = audit(&wiring, &Options::default());
        // What a renderer asks for: where each place is.
        for place in report.findings.iter().flat_map(|finding| &finding.places) {
            wiring.sources[place.source.index()].position(place.span.start);
        }
        report
    });
    (steps, report.findings.len())
}

#[rstest]
#[case::chain(Shape::Chain, 100)]
#[case::cycle_group(Shape::CycleGroup, 250)]
#[case::tag(Shape::Tag, 120)]
#[case::contract(Shape::Contract, 300)]
#[case::missing(Shape::Missing, 300)]
#[case::aliases(Shape::Aliases, 120)]
#[case::modules(Shape::Modules, 3_000)]
#[case::one_file(Shape::OneFile, 120)]
#[case::tiny_files(Shape::TinyFiles, 160)]
#[case::many_needs(Shape::ManyNeeds, 120)]
#[case::stages(Shape::Stages, 700)]
#[case::keys(Shape::Keys, 400)]
#[case::generics(Shape::Generics, 4_000)]
#[case::templates(Shape::Templates, 200)]
#[case::models(Shape::Models, 4_000)]
#[case::above(Shape::Above, 400)]
#[case::positions(Shape::Positions, 400)]
#[case::words(Shape::Words, 400)]
fn four_times_as_much_is_four_times_the_work(#[case] shape: Shape, #[case] most: u64) {
    let small = if shape == Shape::Modules { 500 } else { 2_000 };
    let ((few, _), (many, findings)) = (steps(shape, small), steps(shape, 4 * small));
    let each = many / (4 * small as u64);
    println!("{shape:?}: {few} and {many} steps, {each} each; {findings} findings");
    assert!(few > small as u64, "{few} steps: nothing was counted");
    assert!(many <= few * 9 / 2, "{few} steps, and {many} for four times as much");
    assert!(each <= most, "{each} steps for each of them");
}

/// Asking for a contract goes over its candidates and needs once each, however many they are.
#[test]
fn a_contract_with_many_candidates_is_shown_in_one_pass() {
    let steps = |size: usize| {
        let lines = |each: &dyn Fn(usize) -> String| (0..size).map(each).collect::<String>();
        let text = format!(
            "corvant: 1\nmodule: m\nservices:\n{}entries:\n  e:\n    needs:\n{}{}",
            lines(&|n| format!("  s{n}: {{ offers: [C], key: k{n} }}\n")),
            lines(&|n| format!("      k{n}: {{ contract: C, key: k{n} }}\n")),
            lines(&|n| format!("      n{n}: {{ contract: C, optional: true }}\n")),
        );
        let wiring = corvant_testing::wiring([("m.wiring.yaml", text.as_str())]);
        let report = audit(&wiring, &Options::default());
        let subject = Subject { kind: Kind::Contract, name: wiring.names.find("C").expect("it is named") };
        let view = View::new(&wiring, None);
        let (sheet, steps) = work::measured(|| show(&view, subject, &report));
        assert!(sheet.sections().iter().any(|(_, facts)| facts.len() >= size));
        steps
    };
    let (few, many) = (steps(1_000), steps(4_000));
    assert!(few > 1_000 && many <= few * 9 / 2, "{few} steps, and {many} for four times as much");
}

/// Fixes of many findings in one file are spelt out without going over the file for each, however it is written.
#[rstest]
#[case::one_line(
    "m.wiring.json",
    r#"{"corvant": 1, "entries": {"e": {}}, "services": {EACH"m.last": {"type": "velmora.Last"}}}"#,
    r#""m.sN": {"type": "velmora.Stop"}, "#
)]
#[case::between_braces(
    "m.wiring.yaml",
    "{ corvant: 1, entries: { e: {} }, services: { EACHm.last: { type: velmora.Last } } }",
    "m.sN: { type: velmora.Stop }, "
)]
#[case::headers(
    "m.wiring.toml",
    "corvant = 1\nentries.e = {}\nEACH",
    "[services.\"m.sN\"]\ntype = \"velmora.Stop\"\n"
)]
#[case::lines(
    "m.wiring.yaml",
    "corvant: 1\nentries: { e: {} }\nservices:\nEACH",
    "  m.sN: { type: velmora.Stop }\n"
)]
#[case::far_moves(
    "m.wiring.yaml",
    "corvant: 1\nservices: { m.late: { type: velmora.Late } }\nproviders:\nEACH\
     \x20 m.last: { registers: [m.late] }\nroster: [ROSTERm.last]\n",
    "  m.pN: { register: { needs: { late: { service: m.late } } } }\n"
)]
fn fixes_in_one_file_are_spelt_out_in_one_pass(#[case] path: &str, #[case] text: &str, #[case] each: &str) {
    let steps = |size: usize| {
        let repeated =
            |each: &str| (0..size).map(|number| each.replace('N', &number.to_string())).collect::<String>();
        let text = text.replace("EACH", &repeated(each)).replace("ROSTER", &repeated("m.pN, "));
        let wiring = corvant_testing::wiring([(path, text.as_str())]);
        let mut findings = audit(&wiring, &Options::default()).findings;
        let ((), steps) = work::measured(|| corvant_read::edit::spell_out(&mut findings, &wiring));
        let edits: usize =
            findings.iter().flat_map(|finding| &finding.fixes).map(|fix| fix.edits.len()).sum();
        assert!(edits >= size, "{edits} edits");
        steps
    };
    let (few, many) = (steps(1_000), steps(4_000));
    assert!(few > 100 && many <= few * 9 / 2, "{few} steps, and {many} for four times as much");
}

/// Lines of models may ask for as much as all before them together: that ends somewhere, and is said.
#[test]
fn what_models_hand_on_has_an_end() {
    let files: Vec<(String, String)> = Shape::Models.files(6_000).collect();
    let texts = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let wiring = corvant_testing::wiring(texts);
    assert!(wiring.facts.parts.needs.len() < 1_300_000, "{}", wiring.facts.parts.needs.len());
    let report = audit(&wiring, &Options::default());
    // Nobody uses those in between; each is used by its words alone.
    let others =
        report.findings.iter().map(|finding| finding.rule.name).filter(|rule| *rule != "unused-service");
    assert_eq!(others.collect::<Vec<_>>(), ["wrong-shape"]);
    assert!(
        report.findings[0].message.contains("take over more needs and tags"),
        "{}",
        report.findings[0].message
    );
    // A line of templates is what the one at its end takes over.
    let files: Vec<(String, String)> = Shape::Templates.files(6_000).collect();
    let wiring = corvant_testing::wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    assert_eq!(wiring.services().map(|(_, service)| service.needs.len()).max(), Some(6_000));
    assert!(audit(&wiring, &Options::default()).findings.is_empty());
}
