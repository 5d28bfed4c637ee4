//! Answers held against the plainest way to find them, on small workspaces made at random.

use corvant_core::answers::find::find;
use corvant_core::answers::impact::{Effect, impact};
use corvant_core::answers::order::order;
use corvant_core::answers::terms::Reason;
use corvant_core::answers::why::{Why, why};
use corvant_core::answers::{Kind, Subject, View};
use corvant_core::facts::{Need, Target};
use corvant_core::wiring::{NeedIndex, Wiring};
use corvant_testing::corpus::Random;
use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write;

const WRITING: &str = "writing to a String";

fn wiring(text: &str) -> Wiring {
    corvant_testing::wiring([("m.wiring.yaml", text)])
}

/// Services by number, each with those it needs.
type Edges = Vec<BTreeSet<usize>>;

fn edges(random: &mut Random, services: usize, most: usize, acyclic: bool) -> Edges {
    let mut edges: Edges = vec![BTreeSet::new(); services];
    for _ in 0..random.below(most * services) {
        let (one, other) = (random.below(services), random.below(services));
        if !acyclic || one < other {
            edges[one].insert(other);
        }
    }
    edges
}

fn manifest(edges: &Edges) -> String {
    let mut text = String::from("corvant: 1\nmodule: m\nservices:\n");
    for (number, needs) in edges.iter().enumerate() {
        let needs: Vec<String> =
            needs.iter().map(|need| format!("n{need}: {{ service: s{need} }}")).collect();
        writeln!(text, "  s{number}: {{ needs: {{ {} }} }}", needs.join(", ")).expect(WRITING);
    }
    text
}

fn service(wiring: &Wiring, number: usize) -> Subject {
    Subject { kind: Kind::Service, name: wiring.names.find(&format!("s{number}")).expect("it is defined") }
}

/// All ways from one service to another that meet none twice (but for the last, if it is the first).
fn all_ways(edges: &Edges, from: usize, to: usize) -> BTreeSet<Vec<usize>> {
    let mut ways = BTreeSet::new();
    let mut waiting = vec![vec![from]];
    while let Some(way) = waiting.pop() {
        for &next in &edges[way[way.len() - 1]] {
            let mut longer = way.clone();
            longer.push(next);
            if next == to {
                ways.insert(longer);
            } else if !way.contains(&next) {
                waiting.push(longer);
            }
        }
    }
    ways
}

fn ways_of(answer: &Why) -> Vec<Vec<usize>> {
    let number = |name: &str| name[1..].parse().expect("services are called by number");
    let way = |steps: &Vec<corvant_core::answers::why::ChainLink>| {
        let first = number(&steps[0].from.name);
        std::iter::once(first).chain(steps.iter().map(|step| number(&step.to.name))).collect::<Vec<usize>>()
    };
    answer.chains.iter().map(way).collect()
}

#[test]
fn chains_are_all_ways_without_a_service_twice() {
    let mut random = Random::new(11);
    for round in 0..150 {
        let services = 2 + random.below(6);
        let edges = edges(&mut random, services, 3, false);
        let wiring = wiring(&manifest(&edges));
        let view = View::new(&wiring, None);
        let (from, to) = (random.below(services), random.below(services));
        let answer = why(&view, service(&wiring, from), service(&wiring, to), 10_000);
        let expected = all_ways(&edges, from, to);
        let found = ways_of(&answer);
        assert_eq!(found.iter().cloned().collect::<BTreeSet<_>>(), expected, "round {round}: {edges:?}");
        assert_eq!(found.len(), expected.len(), "round {round}: a chain comes twice");
        let lengths: Vec<usize> = found.iter().map(Vec::len).collect();
        assert!(lengths.is_sorted(), "round {round}: {lengths:?}");
        assert_eq!(answer.nearest.is_none(), !expected.is_empty());
        assert!(answer.count as usize >= usize::from(!expected.is_empty()));
    }
}

#[test]
fn without_cycles_the_count_is_exact_however_few_are_shown() {
    let mut random = Random::new(12);
    for round in 0..150 {
        let services = 2 + random.below(9);
        let edges = edges(&mut random, services, 4, true);
        let wiring = wiring(&manifest(&edges));
        let view = View::new(&wiring, None);
        let answer = why(&view, service(&wiring, 0), service(&wiring, services - 1), 0);
        let expected = all_ways(&edges, 0, services - 1);
        assert_eq!(
            (answer.count as usize, answer.at_least),
            (expected.len(), false),
            "round {round}: {edges:?}"
        );
        let shortest = expected.iter().map(Vec::len).min();
        assert_eq!(answer.chains.first().map(|chain| chain.len() + 1), shortest);
    }
}

#[test]
fn of_all_that_could_be_built_next_the_first_by_name_is() {
    let mut random = Random::new(13);
    for round in 0..100 {
        let services = 1 + random.below(12);
        let edges = edges(&mut random, services, 2, true);
        let wiring = wiring(&manifest(&edges));
        let order = order(&View::new(&wiring, None), None);
        let mut built: BTreeSet<usize> = BTreeSet::new();
        for step in &order.building {
            let is_ready = |number: &usize| !built.contains(number) && edges[*number].is_subset(&built);
            let first = (0..services).filter(is_ready).map(|number| format!("s{number}")).min();
            assert_eq!(step.services, [first.expect("something is ready")], "round {round}: {edges:?}");
            built.insert(step.services[0][1..].parse().expect("a number"));
        }
        assert_eq!(built.len(), services);
        // The depth of each is one more than the greatest depth of what it needs.
        let depths: BTreeMap<usize, usize> = order
            .building
            .iter()
            .map(|step| (step.services[0][1..].parse().expect("a number"), step.depth))
            .collect();
        for (number, needs) in edges.iter().enumerate() {
            let below = needs.iter().map(|need| depths[need] + 1).max().unwrap_or(0);
            assert_eq!(depths[&number], below);
        }
    }
}

/// A service or an entry of a workspace with all sorts of needs; what it is made of stands in the lines.
fn lines_at_random(random: &mut Random) -> Vec<String> {
    let services = 3 + random.below(6);
    let mut needs = |count: usize| {
        let need = |slot: usize, random: &mut Random| {
            let target = match random.below(5) {
                0 | 1 => format!("service: s{}", random.below(services)),
                2 => "contract: A".to_owned(),
                3 => "contract: B".to_owned(),
                _ => "contract: A, key: k".to_owned(),
            };
            let how = ["", "", "", ", optional: true", ", lazy: true", ", via: setter"][random.below(6)];
            format!("n{slot}: {{ {target}{how} }}")
        };
        let count = random.below(count);
        (0..count).map(|slot| need(slot, random)).collect::<Vec<_>>().join(", ")
    };
    let mut lines = Vec::new();
    for number in 0..services {
        let offer =
            [", offers: [A]", ", offers: [B]", ", offers: [A], key: k", ", offers: [B], default: true", ""];
        let offer = offer[number % offer.len()];
        lines.push(format!("  s{number}: {{ needs: {{ {} }}{offer} }}", needs(4)));
    }
    lines.push("entries:".to_owned());
    for number in 0..3 {
        lines.push(format!("  e{number}: {{ needs: {{ {} }} }}", needs(3)));
    }
    lines
}

fn text_of(lines: &[String]) -> String {
    format!("corvant: 1\nmodule: m\nservices:\n{}\n", lines.join("\n"))
}

/// A workspace, and the same without one of its services.
struct Removal {
    text: String,
    gone: usize,
    before: Wiring,
    after: Wiring,
}

impl Removal {
    fn at_random(random: &mut Random) -> Self {
        let mut lines = lines_at_random(random);
        let services = lines.iter().position(|line| line == "entries:").expect("there are entries");
        let gone = random.below(services);
        let text = text_of(&lines);
        lines.remove(gone);
        Self { gone, before: wiring(&text), after: wiring(&text_of(&lines)), text }
    }
}

#[test]
fn what_takes_over_is_what_the_workspace_without_it_gives() {
    let mut random = Random::new(15);
    let mut replaced = 0;
    for _ in 0..400 {
        let Removal { text, gone, before, after } = Removal::at_random(&mut random);
        let there = View::new(&after, None);
        let view = View::new(&before, None);
        for affected in impact(&view, &[service(&before, gone)]).replaced {
            replaced += 1;
            let Effect::GetsService(given) = &affected.how else { panic!("it says what: {affected:?}") };
            let mut needs = after.facts.parts.needs.iter().enumerate();
            let is_it = |(number, need): (usize, &Need)| {
                matches!(need.target, Target::Contract(_))
                    && there.gets(NeedIndex::new(number)).service.as_ref() == Some(given)
            };
            assert!(needs.any(is_it), "{given} takes over for s{gone}:\n{text}");
        }
    }
    assert!(replaced > 20, "only {replaced} were replaced: nothing was tested");
}

#[test]
fn a_name_is_found_wherever_it_stands() {
    // Names that stand in one role each, so that their occurrences can be counted in the text.
    let mut random = Random::new(16);
    for round in 0..200 {
        let text = text_of(&lines_at_random(&mut random));
        let wiring = wiring(&text);
        for wanted in ["s0", "s2", "s4", "A", "B", "k", "e0", "e2"] {
            let is_part = |letter: char| letter.is_alphanumeric();
            let words = text.split(|letter| !is_part(letter)).filter(|word| *word == wanted).count();
            let found = find(&wiring, None, |name| name == wanted);
            assert_eq!(found.len(), words, "round {round}: {wanted} in\n{text}");
            for mention in &found {
                let span = mention.span.start as usize..mention.span.end as usize;
                assert_eq!(&text[span], wanted);
            }
            assert!(found.is_sorted_by_key(|mention| mention.span));
        }
    }
}

#[test]
fn needs_of_a_met_contract_are_told_with_what_meets_them() {
    let mut random = Random::new(17);
    for _ in 0..100 {
        let text = text_of(&lines_at_random(&mut random));
        let wiring = wiring(&text);
        let view = View::new(&wiring, None);
        for number in 0..wiring.facts.parts.needs.len() {
            let gets = view.gets(NeedIndex::new(number));
            let is_by_name = matches!(
                gets.reason,
                Reason::Id | Reason::Alias(_) | Reason::Wraps(_) | Reason::Replaces(_) | Reason::Wrapped
            );
            let is_by_contract =
                matches!(gets.reason, Reason::Chosen(_) | Reason::Key(_) | Reason::Only | Reason::Default(_));
            assert_eq!(gets.service.is_some(), is_by_name || is_by_contract, "{gets:?} in\n{text}");
            let need = &wiring.facts.parts.needs[number];
            let is_key = need.key.is_some();
            if matches!(need.target, Target::Contract(_)) && gets.service.is_some() {
                assert_eq!(gets.reason == Reason::Key("k".to_owned()), is_key, "{gets:?}");
            }
        }
    }
}
