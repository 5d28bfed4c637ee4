//! What is told of everything at once is what is told of each thing.

use corvant_core::answers::View;
use corvant_core::answers::atlas::Atlas;
use corvant_core::answers::show::{Fact, Said, Section, Sheet, show};
use corvant_core::audit::{Options, audit};
use corvant_testing::tangle::tangle;
use corvant_testing::wiring;

/// What does not follow from needs and edges, as texts.
fn told(sheet: &Sheet) -> Vec<String> {
    let relations = [
        Section::Needs,
        Section::UsesWhileRegistering,
        Section::UsesAtStart,
        Section::NeededBy,
        Section::Claims,
        Section::Serves,
        Section::CarriedBy,
        Section::Findings,
    ];
    let told = |fact: &Fact| {
        let said = match &fact.said {
            Said::Tag { name, attributes, .. } => format!("{name} {attributes:?}"),
            said => format!("{said:?}"),
        };
        format!("{:?} {said} {:?}", fact.section, fact.place)
    };
    let mut all: Vec<String> =
        sheet.facts.iter().filter(|fact| !relations.contains(&fact.section)).map(told).collect();
    all.sort();
    all
}

#[test]
fn sheets_of_all_say_what_each_says_by_itself() {
    for seed in 0..120 {
        let files = tangle(seed);
        let wiring = wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
        let report = audit(&wiring, &Options::default());
        let stages = [None].into_iter().chain(wiring.stages.first().copied().map(Some));
        for stage in stages {
            let view = View::new(&wiring, stage);
            let atlas = Atlas::new(&view);
            for subject in atlas.subjects() {
                let (one, other) = (show(&view, subject, &report), atlas.sheet(subject));
                assert_eq!(told(&one), told(&other), "seed {seed}: {}", one.name);
            }
        }
    }
}

#[test]
fn nodes_edges_and_needs_are_those_of_the_graph() {
    for seed in 0..60 {
        let files = tangle(seed);
        let wiring = wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
        let view = View::new(&wiring, None);
        let atlas = Atlas::new(&view);
        let subjects = atlas.subjects();
        for number in 0..atlas.len() {
            let node = atlas.node(number);
            assert!(subjects.contains(&node.subject), "seed {seed}: {:?} can be looked up", node.thing);
            for need in atlas.needs(number) {
                let to = need.to.map(|to| atlas.node(to).thing.name);
                if let (Some(service), Some(to)) = (&need.gets.service, &to) {
                    assert_eq!(service, to, "seed {seed}: {} of {:?}", need.slot, node.thing);
                }
            }
            assert!(atlas.links(number).all(|to| to < atlas.len()));
        }
    }
}
