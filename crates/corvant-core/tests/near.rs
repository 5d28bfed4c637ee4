//! Near-misses, over generated names.

use corvant_core::near::nearest;
use proptest::prelude::*;

fn names() -> impl Strategy<Value = Vec<String>> {
    proptest::collection::btree_set("[a-h]{3,8}\\.[a-h]{4,9}", 1..40)
        .prop_map(|names| names.into_iter().collect())
}

/// Edits of a name that people make: a letter lost, doubled, swapped or replaced.
fn misspelt(name: &str, at: usize, kind: usize) -> String {
    let mut letters: Vec<char> = name.chars().collect();
    let at = at % (letters.len() - 1);
    match kind % 4 {
        0 => drop(letters.remove(at)),
        1 => letters.insert(at, letters[at]),
        2 => letters.swap(at, at + 1),
        _ => letters[at] = 'x',
    }
    letters.into_iter().collect()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn one_edit_away_is_found(names in names(), which in any::<prop::sample::Index>(), at in 0_usize..20, kind in 0_usize..4) {
        let known: Vec<&str> = names.iter().map(String::as_str).collect();
        let name = known[which.index(known.len())];
        let wanted = misspelt(name, at, kind);
        let found = nearest(&[&wanted], &known)[0].map(|position| known[position]);
        // Another name may be as close or closer, but some name is found.
        let folded = |text: &str| text.replace('.', "");
        let distance = |text: &str| strsim::osa_distance(&folded(text), &folded(&wanted));
        prop_assert!(found.is_some_and(|found| distance(found) <= distance(name)), "{wanted}: {found:?}, not {name}");
    }

    #[test]
    fn what_is_found_is_near(names in names(), wanted in "[a-h]{3,8}\\.[a-h]{4,9}") {
        let known: Vec<&str> = names.iter().map(String::as_str).collect();
        if let Some(position) = nearest(&[&wanted], &known)[0] {
            let folded = |text: &str| text.replace('.', "");
            let near = strsim::osa_distance(&folded(known[position]), &folded(&wanted)) <= 2;
            let last = |text: &str| text.rsplit('.').next().map(str::to_owned);
            prop_assert!(near || last(known[position]) == last(&wanted));
        }
    }

    #[test]
    fn the_order_of_what_is_known_does_not_matter(names in names(), at in 0_usize..20, kinds in proptest::collection::vec(0_usize..4, 1..4)) {
        // Names that are known themselves and have close neighbours.
        let close: Vec<String> = kinds.iter().map(|&kind| misspelt(&names[0], at, kind)).collect();
        let mut known: Vec<&str> = names.iter().chain(&close).map(String::as_str).collect();
        let wanted = known.clone();
        let texts = |known: &[&str]| -> Vec<Option<String>> {
            nearest(&wanted, known).iter().map(|found| found.map(|at| known[at].to_owned())).collect()
        };
        let forwards = texts(&known);
        known.reverse();
        prop_assert_eq!(&forwards, &texts(&known));
        let folded = |text: &str| text.replace('.', "");
        for (wanted, found) in wanted.iter().zip(&forwards) {
            prop_assert_eq!(found.as_deref().map(folded), Some(folded(wanted)), "it is known itself");
        }
    }

    #[test]
    fn asking_together_or_alone_is_the_same(names in names(), wanted in proptest::collection::vec("[a-h]{3,8}\\.[a-h]{4,9}", 1..6)) {
        let known: Vec<&str> = names.iter().map(String::as_str).collect();
        let wanted: Vec<&str> = wanted.iter().map(String::as_str).collect();
        let alone: Vec<_> = wanted.iter().map(|wanted| nearest(&[wanted], &known)[0]).collect();
        prop_assert_eq!(nearest(&wanted, &known), alone);
    }
}
