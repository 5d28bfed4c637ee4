//! `definition-cycle`: aliases, templates, wrappers, settings or provider order that run in a ring.

use crate::audit::{Context, Sink};
use crate::facts::{Named, Service};
use crate::finding::{Finding, Severity};
use crate::graph::plain::{Plain, rings};
use crate::name::Name;
use crate::rules::{Family, Rule, Scope};
use crate::source::SourceIndex;
use foldhash::HashMap;

/// The rule.
pub static RULE: Rule = Rule {
    name: "definition-cycle",
    family: Family::Cycles,
    severity: Severity::Error,
    summary: "aliases, templates, wrappers, settings or provider order that run in a ring",
    why: "A definition that leads back to itself has no beginning: there is nothing to build, inherit, wrap, \
          read or load first.",
    limits: "Each kind is looked at by itself: a ring that runs through an alias and a wrapper is seen as \
             whatever closes it.",
    faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board: { alias-of: timetable.main }
  timetable.main: { alias-of: timetable.board }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
    mended: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board: { alias-of: timetable.main }
  timetable.main: { type: velmora.timetable.Board }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
    scope: Scope::Workspace,
    check,
};

fn check(context: &Context<'_>, sink: &mut Sink) {
    let facts = &context.wiring.facts;
    let service_links = |link: fn(&Service) -> Option<Named>| -> Vec<Link> {
        let services = facts.services.iter();
        services
            .filter_map(|service| Some(Link { source: service.source, from: service.id, to: link(service)? }))
            .collect()
    };
    let references = facts.settings.iter().flat_map(|setting| {
        let stages = setting.stages.of(&facts.stage_values).iter().map(|value| value.references);
        let named = stages.chain([setting.references]).flat_map(|names| names.of(&facts.named));
        named.map(|to| Link { source: setting.source, from: setting.setting, to: *to })
    });
    let after = facts.providers.iter().flat_map(|provider| {
        let after = provider.after.of(&facts.named).iter();
        after.map(|to| Link { source: provider.source, from: provider.id, to: *to })
    });
    for (kind, verb, links) in [
        ("aliases", "is an alias of", service_links(|service| service.alias_of)),
        ("models", "is like", service_links(|service| service.like)),
        ("wrappers", "wraps", service_links(|service| service.wraps)),
        ("settings", "refers to", references.collect()),
        ("providers", "comes after", after.collect()),
    ] {
        report(context, kind, verb, &links, sink);
    }
}

/// One definition that leads to another, and where it says so.
#[derive(Clone, Copy)]
struct Link {
    source: SourceIndex,
    from: Named,
    to: Named,
}

fn report(context: &Context<'_>, kind: &str, verb: &str, links: &[Link], sink: &mut Sink) {
    let mut names: Vec<Name> = links.iter().map(|link| link.from.name).collect();
    names.sort_unstable_by_key(|&name| context.text(name));
    names.dedup();
    let number: HashMap<Name, u32> = names.iter().enumerate().map(|(at, &name)| (name, at as u32)).collect();
    let mut graph: Plain = vec![Vec::new(); names.len()];
    let mut places: HashMap<(u32, u32), Link> = HashMap::default();
    for link in links {
        if let (Some(&from), Some(&to)) = (number.get(&link.from.name), number.get(&link.to.name)) {
            graph[from as usize].push(to);
            places.entry((from, to)).or_insert(*link);
        }
    }
    for (ring, _) in rings(&graph) {
        let texts: Vec<&str> = ring.iter().map(|&at| context.text(names[at as usize])).collect();
        let subject = texts.join(" > ");
        let message = format!("{kind} run in a ring: {subject} > {}", texts[0]);
        let mut finding = Finding::new(&RULE, subject, message);
        for (position, &from) in ring.iter().enumerate() {
            let to = ring[(position + 1) % ring.len()];
            let link = places[&(from, to)];
            let role = format!("{} {verb} {}", texts[position], context.text(names[to as usize]));
            finding = finding.at(link.source, link.to.span, role);
        }
        sink.report(finding.help("let one of them say something of its own instead"));
    }
}

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn each_kind_of_ring_is_found_and_lines_are_not() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
settings:
  a.one: "${a.two}"
            ^^^^^ definition-cycle a.one > a.two
  a.two: "${a.one}/${a.three}"
  a.three: plain
services:
  b.alias: { alias-of: b.alias }
                       ^^^^^^^ definition-cycle b.alias
  c.one: { like: c.two }
                 ^^^^^ definition-cycle c.one > c.two
  c.two: { like: c.one }
  d.one: { wraps: d.two }
                  ^^^^^ definition-cycle d.one > d.two
  d.two: { wraps: d.one }
  e.one: { alias-of: e.two }
  e.two: { alias-of: e.three }
  e.three: {}
providers:
  f.one: { after: [f.two] }
                   ^^^^^ definition-cycle f.one > f.two
  f.two: { after: [f.one] }
entries:
  e:
    needs:
      a: { setting: a.one }
      b: { service: b.alias }
      c: { service: c.one }
      d: { service: c.two }
      e: { service: d.one }
      f: { service: e.one }
      g: { service: d.two }
"#,
        );
    }
}
