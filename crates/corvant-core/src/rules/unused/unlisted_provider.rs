//! `unlisted-provider`: a provider that is defined and not on the roster.

use crate::audit::{Context, Sink};
use crate::finding::{Finding, Severity};
use crate::name::Name;
use crate::near::nearest;
use crate::rules::{Family, Rule, Scope};
use foldhash::HashSet;

/// The rule.
pub static RULE: Rule = Rule {
    name: "unlisted-provider",
    family: Family::Unused,
    severity: Severity::Warning,
    summary: "a provider that is defined and not on the roster",
    why: "It is never loaded, and what it registers is never there.",
    limits: "Where there is no roster anywhere, the rule does not run: nobody says what is loaded.",
    faulty: r#"
//- start.wiring.yaml
corvant: 1
module: timetable
providers: { timetable.provider: {}, timetable.night: {} }
roster: [timetable.provider]
"#,
    mended: r#"
//- start.wiring.yaml
corvant: 1
module: timetable
providers: { timetable.provider: {}, timetable.night: {} }
roster: [timetable.provider, timetable.night]
"#,
    scope: Scope::Workspace,
    check,
};

fn check(context: &Context<'_>, sink: &mut Sink) {
    let facts = &context.wiring.facts;
    let is_known = !facts.rosters.is_empty() && facts.rosters.iter().all(|roster| roster.is_whole);
    if !is_known || context.doubts.is_opaque() {
        return;
    }
    let listed = facts.rosters.iter().flat_map(|roster| roster.providers.of(&facts.named));
    let mut listed: HashSet<Name> = listed.map(|provider| provider.name).collect();
    // A misspelt name on the roster is a finding; the provider that was meant is listed.
    let known: Vec<&str> = facts.providers.iter().map(|provider| context.text(provider.id.name)).collect();
    let defined: HashSet<Name> = facts.providers.iter().map(|provider| provider.id.name).collect();
    let wanted: Vec<&str> = listed.difference(&defined).map(|&name| context.text(name)).collect();
    let meant = nearest(&wanted, &known).into_iter().flatten();
    listed.extend(meant.map(|meant| facts.providers[meant].id.name));
    for provider in &facts.providers {
        let name = provider.id.name;
        if listed.contains(&name) || context.doubts.mentions(name).is_some() {
            continue;
        }
        let id = context.text(name);
        let message =
            format!("{id} is not on the roster: it is never loaded, and what it registers is never there");
        let roster = &facts.rosters[0];
        let mut finding =
            Finding::new(&RULE, id, message).at(provider.source, provider.id.span, "defined here");
        if let Some(last) = roster.providers.of(&facts.named).last() {
            finding = finding.at(roster.source, last.span, "the roster ends here");
        }
        sink.report(finding.help(format!("add {id} to the roster, or take it out")));
    }
}

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn without_a_roster_nobody_says_what_is_loaded() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
providers: { a.one: {}, a.two: {} }
"#,
        );
    }

    #[test]
    fn the_provider_that_a_misspelt_name_means_is_listed() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
providers: { a.first: {}, a.second: {}, a.other: {} }
                                        ^^^^^^^ unlisted-provider a.other
roster: [a.frist, a.second]
         ^^^^^^^ missing-provider a.frist
"#,
        );
    }
}
