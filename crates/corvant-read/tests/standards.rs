//! The open standards, each held against small folders of its files.

use corvant_core::finding::BlindSpotKind;
use corvant_read::workspace;
use corvant_testing::{expect, messages};
use rstest::rstest;

/// A bundle in a folder, with one component description. Shapes of needs and services are as in the specification.
fn bundle(headers: &str, components: &str) -> String {
    format!(
        "//- bundle/META-INF/MANIFEST.MF\nManifest-Version: 1.0\nBundle-SymbolicName: velmora.lines\nService-Component: OSGI-INF/lines.xml\n{headers}\n\
         //- bundle/OSGI-INF/lines.xml\n<all xmlns:scr=\"http://www.osgi.org/xmlns/scr/v1.3.0\">\n{components}\n</all>\n"
    )
}

const LINE: &str = r#"<scr:component name="lines.red"><implementation class="velmora.lines.Red"/>
<property name="color" value="red"/><service><provide interface="velmora.Line"/></service></scr:component>"#;

fn needing(reference: &str) -> String {
    format!(
        r#"<scr:component name="board"><implementation class="velmora.Board"/><reference name="line" interface="velmora.Line" {reference}/></scr:component>"#
    )
}

fn rules(text: &str) -> Vec<(&'static str, String)> {
    messages(text).into_iter().map(|found| (found.rule, found.subject)).collect()
}

#[rstest]
#[case::met("", true, &[])]
#[case::missing("", false, &[("missing-implementation", "velmora.Line")])]
#[case::several("cardinality=\"1..n\"", false, &[("missing-implementation", "velmora.Line")])]
#[case::optional("cardinality=\"0..1\"", false, &[])]
#[case::any("cardinality=\"0..n\" policy=\"dynamic\"", false, &[])]
#[case::filtered("target=\"(color=red)\"", true, &[])]
#[case::filter_of_many("cardinality=\"1..n\" target=\"(color=red)\"", true, &[])]
#[case::filter_that_a_configuration_may_meet("target=\"(color=blue)\"", true, &[])]
#[case::filter_on_the_name("target=\"(component.name=lines.blue)\"", true, &[("missing-implementation", "velmora.Line (component.name=lines.blue)")])]
#[case::filter_on_nothing("target=\"(color=red)\"", false, &[("missing-implementation", "velmora.Line")])]
#[case::no_cardinality("cardinality=\"2..3\"", true, &[("wrong-shape", "board.line.cardinality")])]
#[case::no_policy("policy=\"lazy\"", true, &[("wrong-shape", "board.line.policy")])]
#[case::no_filter("target=\"color=red\"", true, &[("wrong-shape", "board.line.target")])]
fn references_take_what_the_standard_gives_them(
    #[case] reference: &str,
    #[case] is_there: bool,
    #[case] expected: &[(&'static str, &str)],
) {
    let line = if is_there { LINE } else { "" };
    let found = rules(&bundle("", &format!("{line}{}", needing(reference))));
    let expected: Vec<_> = expected.iter().map(|&(rule, subject)| (rule, subject.to_owned())).collect();
    assert_eq!(found, expected);
}

#[test]
fn the_highest_ranking_wins_and_equal_ones_are_ambiguous() {
    let ranked = |name: &str, ranking: &str| {
        LINE.replace("lines.red", name).replace("<property name=\"color\" value=\"red\"/>", ranking)
    };
    let rank = "<property name=\"service.ranking\" type=\"Integer\" value=\"10\"/>";
    let two =
        |first: &str, second: &str| format!("{}{}{}", ranked("a", first), ranked("b", second), needing(""));
    assert_eq!(rules(&bundle("", &two(rank, ""))), []);
    let found = rules(&bundle("", &two(rank, rank)));
    assert_eq!(found, [("ambiguous-implementation", "velmora.Line".to_owned())]);
}

#[test]
fn fixes_of_components_are_told_in_words_of_components() {
    let two = LINE.replace("lines.red", "a") + &LINE.replace("lines.red", "b");
    let text = |components: &str| {
        messages(&bundle("", components)).into_iter().map(|found| found.text).collect::<String>()
    };
    let ambiguous = text(&format!("{two}{}", needing("")));
    assert!(
        ambiguous.contains("give a a higher `service.ranking`, or whichever of them is meant"),
        "{ambiguous}"
    );
    assert!(ambiguous.contains("or name a in the `target` of the reference"), "{ambiguous}");
    let missing = text(&needing(""));
    assert!(missing.contains("let a component `provide` velmora.Line"), "{missing}");
}

#[test]
fn cycles_open_where_a_reference_is_optional() {
    let cycle = |cardinality: &str| {
        format!(
            r#"<scr:component name="a"><implementation class="velmora.A"/><service><provide interface="velmora.A"/></service><reference interface="velmora.B"/></scr:component>
<scr:component name="b"><implementation class="velmora.B"/><service><provide interface="velmora.B"/></service><reference interface="velmora.A" cardinality="{cardinality}"/></scr:component>"#
        )
    };
    let severity = |cardinality| messages(&bundle("", &cycle(cardinality)))[0].severity;
    assert_eq!((severity("1..1"), severity("1..n"), severity("0..n")), ("error", "error", "note"));
}

#[test]
fn code_that_sees_the_interface_may_register_it() {
    let text = bundle("Bundle-Activator: velmora.lines.Start\n", &needing(""));
    assert_eq!(rules(&text), []);
    let text = bundle(
        "Provide-Capability: osgi.service;objectClass:List<String>=\"velmora.Line,velmora.Track\";effective:=active\n",
        &needing(""),
    );
    assert_eq!(rules(&text), []);
}

#[rstest]
#[case::a_component("velmora.Line", true)]
#[case::another_interface("velmora.Track", false)]
fn a_capability_beside_what_it_describes_is_no_second_service(
    #[case] interface: &str,
    #[case] is_same: bool,
) {
    let header = format!("Provide-Capability: osgi.service;objectClass:List<String>=\"{interface}\"\n");
    let text = bundle(&header, &format!("{LINE}{}", needing("").replace("velmora.Line", interface)));
    assert_eq!(rules(&text), []);
    let services = corvant_testing::files(&text);
    let wiring = corvant_testing::wiring(services.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    let offering = wiring.services().filter(|(_, service)| {
        let offers = service.offers.of(&wiring.facts.parts);
        offers.iter().any(|offer| wiring.text(offer.name) == interface)
    });
    assert_eq!(offering.count(), 1);
    assert_eq!(wiring.facts.services.len(), if is_same { 2 } else { 3 });
}

#[test]
fn a_capability_beside_a_provider_file_is_no_second_service() {
    let text = bundle("Provide-Capability: osgi.service;objectClass=velmora.Line\n", &needing(""))
        + "//- bundle/META-INF/services/velmora.Line\nvelmora.lines.Red\n";
    let own = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nentries: { e: { needs: { x: { contract: velmora.Line } } } }\n";
    assert_eq!(rules(&(text + own)), []);
}

#[test]
fn what_the_framework_brings_is_not_missing() {
    let text = bundle("", &needing("").replace("velmora.Line", "org.osgi.framework.hooks.Line"));
    assert_eq!(rules(&text), []);
}

#[test]
fn a_component_without_a_namespace_may_be_the_root_alone() {
    expect(
        r#"
//- b/META-INF/MANIFEST.MF
Service-Component: OSGI-INF/*.xml, OSGI-INF/gone.xml
                   wrong-shape Service-Component
//- b/OSGI-INF/one.xml
<component><implementation class="velmora.A"/><reference interface="velmora.B"/></component>
                                                                    ^^^^^^^^^ missing-implementation velmora.B
//- b/OSGI-INF/two.xml
<other><component><implementation class="velmora.C"/><reference interface="velmora.D"/></component></other>
//- b/OSGI-INF/three.xml
<component name="no-class"/>
^^^^^^^^^^^^^^^^^^^^^^^^^^^^ wrong-shape no-class.implementation
"#,
    );
}

#[test]
fn provider_files_allow_what_the_specification_allows() {
    expect(
        "
//- src/META-INF/services/velmora.Announcer
# a comment
velmora.voice.Cabin  # another
velmora.voice.Cabin

not a class
^^^^^^^^^^^ wrong-shape not a class
//- src/META-INF/services/velmora.Empty
# nothing
//- src/META-INF/services/velmora.Settings
class=velmora.voice.Cabin
//- src/META-INF/services/velmora.Endings
voice
//- src/META-INF/services/velmora.Voices
velmora.voice.Cabin,velmora.voice.Street
//- src/META-INF/services/README
Providers are listed here.
//- src/META-INF/services/velmora/deeper
anything at all
//- other/META-INF/services/velmora.Announcer
velmora.voice.Cabin
velmora.voice.Street
",
    );
}

#[test]
fn several_providers_are_ambiguous_only_where_a_need_takes_one() {
    let providers =
        "//- lib/META-INF/services/velmora.Announcer\nvelmora.voice.Cabin\nvelmora.voice.Street\n";
    let own = |need: &str| {
        format!(
            "{providers}//- a.wiring.yaml\ncorvant: 1\nmodule: a\nentries: {{ e: {{ needs: {{ x: {need} }} }} }}\n"
        )
    };
    assert_eq!(rules(providers), []);
    assert_eq!(rules(&own("{ service: velmora.voice.Cabin }")), []);
    let found = rules(&own("{ contract: velmora.Announcer }"));
    assert_eq!(found, [("ambiguous-implementation", "velmora.Announcer".to_owned())]);
}

#[test]
fn the_same_provider_in_two_places_is_one() {
    expect(
        "
//- one/META-INF/services/velmora.Announcer
velmora.voice.Cabin
//- two/META-INF/services/velmora.Announcer
velmora.voice.Cabin
//- a.wiring.yaml
corvant: 1
module: a
entries: { e: { needs: { x: { contract: velmora.Announcer } } } }
",
    );
}

#[test]
fn scripts_of_one_folder_clash_and_other_groups_do_not() {
    expect(
        "
//- one/site-packages/velmora_a-1.0.dist-info/entry_points.txt
[console_scripts]
voice = velmora_a:main
^^^^^ duplicate-key console_scripts#voice
[velmora.plugins]
voice = velmora_a:plugin
voice = velmora_a:again
^^^^^ repeated-field velmora.plugins.voice
//- one/site-packages/velmora_b-1.0.dist-info/entry_points.txt
[console_scripts]
  voice = velmora_b:main
  spoken = velmora_b
           ^^^^^^^^^ wrong-shape console_scripts.spoken
[velmora.plugins]
voice = velmora_b:plugin
//- two/site-packages/velmora_c-1.0.dist-info/entry_points.txt
[console_scripts]
voice = velmora_c:main
",
    );
}

#[test]
fn what_an_installed_distribution_requires_is_there_or_missing() {
    expect(
        "
//- lib/velmora_a-1.0.dist-info/METADATA
Metadata-Version: 2.4
Name: velmora.a
Requires-Dist: Velmora-B>=2
Requires-Dist: velmora.older
Requires-Dist: velmora-extra; extra == 'loud'
Requires-Dist: velmora-gone (<3)
               ^^^^^^^^^^^^ missing-module velmora-gone in lib
Provides-Extra: loud
//- lib/velmora_b-2.0.dist-info/METADATA
Name: velmora_b
//- lib/velmora_older-1.egg-info
Name: velmora-older
//- lib/velmora_a-1.0.dist-info/entry_points.txt
[velmora.plugins]
one = velmora_a:one [Loud]
two = velmora_a:two [quiet]
      ^^^^^^^^^^^^^^^^^^^^^ wrong-shape velmora.plugins.two
",
    );
}

#[test]
fn one_distribution_in_two_environments_is_no_duplicate() {
    let entry = |environment: &str| {
        format!(
            "//- {environment}/lib/python3.11/site-packages/velmora_a-1.0.dist-info/entry_points.txt\n\
             [velmora.plugins]\none = velmora_a:one\ntwo = velmora_a:two [loud]\n[console_scripts]\nvoice = velmora_a:main\n"
        )
    };
    expect(&(entry("one") + &entry("two")));
}

#[test]
fn an_environment_that_sees_the_system_misses_nothing_that_is_known() {
    let text = "
//- env/pyvenv.cfg
home = /usr/bin
include-system-site-packages = true
//- env/lib/python3.11/site-packages/velmora_a-1.0.dist-info/METADATA
Requires-Dist: velmora-b
";
    expect(text);
    let files = corvant_testing::files(text);
    let read =
        workspace::from_texts(files.iter().map(|(path, text)| (path.as_str(), text.as_str()))).unwrap();
    let spots: Vec<_> = read.blind_spots.iter().map(|spot| (spot.kind, spot.subject.as_str())).collect();
    assert_eq!(spots, [(BlindSpotKind::OpenEnvironment, "env")]);
    expect(&text.replace("true", "false").replace(
        "velmora-b",
        "velmora-b\n               ^^^^^^^^^ missing-module velmora-b in env/lib/python3.11/site-packages",
    ));
}

#[test]
fn a_wheel_that_is_unpacked_is_no_installation() {
    expect(
        "
//- lib/velmora_a-1.0.dist-info/METADATA
Requires-Dist: velmora-b
//- lib/velmora_a-1.0.dist-info/RECORD
velmora_a-1.0.data/purelib/velmora_a/__init__.py,,
//- lib/velmora_a-1.0.dist-info/entry_points.txt
[console_scripts]
voice = velmora_a:main
wrong = velmora_a.deep:main
        ^^^^^^^^^^^^^^ missing-type velmora_a.deep
//- lib/velmora_a-1.0.data/purelib/velmora_a/__init__.py
//- lib/velmora_c-1.0.dist-info/entry_points.txt
[console_scripts]
voice = velmora_c:main
",
    );
}

#[test]
fn activation_files_are_held_to_their_names_and_buses() {
    expect(
        "
//- share/dbus-1/services/org.velmora.Clock.service
[D-BUS Service]
Name=org.velmora.Clock
     ^^^^^^^^^^^^^^^^^ duplicate-key org.velmora.Clock#session
Exec=/usr/bin/clock
//- share/dbus-1/services/velmora-clock.service
[D-BUS Service]
Name=org.velmora.Clock
Exec=/usr/bin/clock
//- local/dbus-1/services/org.velmora.Clock.service
[D-BUS Service]
Name=org.velmora.Clock
Exec=/usr/bin/clock
//- share/dbus-1/system-services/org.velmora.Clock.service
[D-BUS Service]
Name=org.velmora.Clock
Exec=/usr/bin/clock
User=root
//- share/dbus-1/system-services/other.service
[D-BUS Service]
Name=org.velmora.Depot
     ^^^^^^^^^^^^^^^^^ wrong-shape D-BUS Service.Name
Exec=/usr/bin/depot
User=root
//- share/dbus-1/services/org.velmora.gate.service
[D-BUS Service]
Name=org.velmora.Gate
     ^^^^^^^^^^^^^^^^ wrong-shape D-BUS Service.Name
Exec=/usr/bin/gate
Exec=/usr/bin/gate2
^^^^ repeated-field D-BUS Service.Exec
//- share/dbus-1/services/nameless.service
[D-BUS Service]
  wrong-shape D-BUS Service.Name
Exec=/usr/bin/x
//- share/systemd/clock.service
[Service]
ExecStart=/usr/bin/clock
",
    );
}

#[test]
fn standards_are_switched_off_by_name() {
    expect(
        "
//- corvant.toml
[standards]
provider-files = false
//- src/META-INF/services/velmora.Announcer
not a class
//- a.wiring.yaml
corvant: 1
module: a
services: { a.one: {} }
entries: { e: { needs: { x: { service: a.one } } } }
",
    );
}

#[test]
fn what_takes_all_that_offer_a_contract_follows_the_stages() {
    use corvant_core::audit::{Options, audit};
    let reference = needing("cardinality=\"1..n\"")
        .replace("</scr", "<service><provide interface=\"velmora.Board\"/></service></scr");
    let own = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.line: { stages: [drill], offers: [velmora.Line], needs: { b: { contract: velmora.Board } } }\n  a.live: { stages: [live], offers: [velmora.Line] }\n";
    let text = format!("{}{own}", bundle("", &reference));
    let found: Vec<_> = messages(&text)
        .into_iter()
        .map(|found| (found.rule, found.subject, found.holds.unwrap_or_default()))
        .collect();
    // With no stage chosen nothing offers a line; in the drill the line and the board need one another.
    let drill = vec!["drill".to_owned()];
    assert_eq!(
        found,
        [
            ("service-cycle", "a.line > board".to_owned(), drill),
            ("missing-implementation", "velmora.Line".to_owned(), vec!["-".to_owned()]),
        ]
    );
    let wiring = corvant_testing::wiring_of(&text);
    let keys = |afresh| {
        let report = audit(&wiring, &Options { afresh, ..Options::default() });
        let key = |found: &corvant_core::finding::Finding| {
            (found.rule.name, found.subject.clone(), found.holds.clone())
        };
        report.findings.iter().map(key).collect::<Vec<_>>()
    };
    assert_eq!(keys(true), keys(false));
}

/// A component with some attributes and content, that provides a line.
fn line(name: &str, attributes: &str, content: &str) -> String {
    format!(
        "<scr:component name=\"{name}\" {attributes}><implementation class=\"velmora.{name}\"/>{content}\
         <service><provide interface=\"velmora.Line\"/></service></scr:component>\n"
    )
}

#[rstest]
#[case::the_policy_says_that_nothing_else_comes("configuration-policy=\"ignore\"", "(color=blue)", false)]
#[case::a_configuration_may_say_so("configuration-policy=\"require\"", "(color=blue)", true)]
#[case::without_a_policy("", "(color=blue)", true)]
#[case::a_property("configuration-policy=\"ignore\"", "(color=red)", true)]
#[case::one_of_several_values("configuration-policy=\"ignore\"", "(stops=depot)", true)]
#[case::the_name_in_any_case("configuration-policy=\"ignore\"", "(COLOR=red)", true)]
#[case::the_interface("configuration-policy=\"ignore\"", "(objectClass=velmora.Line)", true)]
#[case::what_is_known_at_run_time_only("configuration-policy=\"ignore\"", "(service.id>=1)", true)]
#[case::none_of_them("configuration-policy=\"ignore\"", "(!(color=red))", false)]
fn filters_are_held_against_what_is_known(#[case] policy: &str, #[case] filter: &str, #[case] is_met: bool) {
    let properties = "<property name=\"color\" value=\"red\"/><property name=\"stops\" type=\"String\">\n square\n depot\n</property>";
    let components =
        line("red", policy, properties) + &needing(&format!("target=\"{filter}\"").replace('>', "&gt;"));
    let found = rules(&bundle("", &components));
    let expected = [("missing-implementation", format!("velmora.Line {filter}"))];
    assert_eq!(found, if is_met { &[][..] } else { &expected[..] });
}

#[test]
fn filters_tell_apart_what_is_ambiguous_without_them() {
    let red = line("red", "", "<property name=\"color\" value=\"red\"/>");
    let blue = line("blue", "", "<property name=\"color\" value=\"blue\"/>");
    assert_eq!(rules(&bundle("", &format!("{red}{blue}{}", needing("target=\"(color=red)\"")))), []);
    let found = rules(&bundle("", &format!("{red}{blue}{}", needing(""))));
    assert_eq!(found, [("ambiguous-implementation", "velmora.Line".to_owned())]);
}

#[test]
fn one_component_is_one_in_its_bundle_and_another_in_the_next() {
    let twice = format!("{}{}", line("red", "", ""), line("red", "", ""));
    assert_eq!(rules(&bundle("", &twice)), [("duplicate-service", "red".to_owned())]);
    let once = bundle("", &line("red", "", ""));
    assert_eq!(rules(&format!("{once}{}", once.replace("bundle/", "copy/"))), []);
}

#[test]
fn a_choice_of_the_own_format_goes_before_the_ranking() {
    let ranked = line("red", "", "<property name=\"service.ranking\" type=\"Integer\" value=\"5\"/>");
    let components = format!("{ranked}{}{}", line("blue", "", ""), needing(""));
    let own = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nchoices: { velmora.Line: { default: blue } }\n\
        expect: [{ contract: velmora.Line, met-by: red }]\n";
    let found = rules(&format!("{}{own}", bundle("", &components)));
    assert_eq!(found, [("unmet-expectation", "velmora.Line".to_owned())]);
}

#[rstest]
#[case::plain("velmora.Clock", "velmora.Wall", 1)]
#[case::crlf_and_comments("velmora.Clock", "# c\r\nvelmora.Wall # x\r\n\r\nvelmora.Wrist\r\n", 2)]
#[case::a_nested_class("velmora.Clock$Face", "velmora.Wall$Face", 1)]
#[case::letters_of_any_script("velmora.Žluť", "velmora.Šípka", 1)]
#[case::a_byte_order_mark("velmora.Clock", "\u{feff}velmora.Wall", 1)]
#[case::a_contract_without_a_package("Clock", "velmora.Wall", 1)]
#[case::no_contract("clock-face", "velmora.Wall", 0)]
#[case::no_provider("velmora.Clock", "clock\nface", 0)]
fn provider_files_are_told_from_what_lies_beside_them(
    #[case] contract: &str,
    #[case] text: &str,
    #[case] providers: usize,
) {
    let path = format!("src/META-INF/services/{contract}");
    let wiring = corvant_testing::wiring([(path.as_str(), text)]);
    assert_eq!(wiring.facts.services.len(), providers);
    assert_eq!(wiring.headers[0].left_over > 0, providers == 0);
    assert_eq!(wiring.facts.troubles.len(), 0);
}

#[rstest]
#[case::no_name("Exec=/bin/x", "wrong-shape D-BUS Service.Name")]
#[case::nothing_to_start("Name=org.velmora.X", "wrong-shape D-BUS Service.Exec")]
#[case::no_bus_name("Name=velmora\nExec=/bin/x", "wrong-shape D-BUS Service.Name")]
#[case::a_number_first("Name=org.1velmora\nExec=/bin/x", "wrong-shape D-BUS Service.Name")]
#[case::started_by_something_else("Name=org.velmora.X\nSystemdService=x.service", "")]
#[case::comments("# c\nName=org.velmora.X\n\nExec=/bin/x --bus", "")]
fn activation_files_say_what_they_must(#[case] fields: &str, #[case] expected: &str) {
    let text = format!("//- some/folder/org.velmora.X.service\n[D-BUS Service]\n{fields}\n");
    let found: Vec<String> =
        rules(&text).into_iter().map(|(rule, subject)| format!("{rule} {subject}")).collect();
    assert_eq!(found, if expected.is_empty() { vec![] } else { vec![expected.to_owned()] });
}

#[test]
fn names_of_one_folder_apart_in_letter_case_alone_are_easily_mistaken() {
    let file =
        |name: &str| format!("//- bus/services/{name}.service\n[D-BUS Service]\nName={name}\nExec=/bin/x\n");
    let found = rules(&(file("org.velmora.Depot") + &file("org.velmora.depot")));
    assert_eq!(found.len(), 1, "{found:?}");
    assert_eq!(found[0].0, "lookalike-id");
}

/// What is installed may share a name with others; a need of one of them is then in doubt.
#[test]
fn a_need_on_a_name_that_several_distributions_give_is_ambiguous() {
    let distribution = |name: &str| {
        format!(
            "//- lib/velmora_{name}-1.0.dist-info/entry_points.txt\n[velmora.voices]\ncabin = velmora_{name}.cabin:Voice\n"
        )
    };
    let need = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nentries: { e: { needs: { v: { contract: velmora.voices, key: cabin } } } }\n";
    let text = format!("{}{}{need}", distribution("a"), distribution("b"));
    assert_eq!(rules(&text), [("ambiguous-implementation", "velmora.voices#cabin".to_owned())]);
    let text = format!("{}{need}", distribution("a"));
    assert_eq!(rules(&text), []);
}

#[test]
fn a_need_on_a_bus_name_that_several_files_give_is_ambiguous() {
    let file = |at: usize| {
        format!(
            "//- share/{at}/dbus-1/services/velmora.service\n[D-BUS Service]\nName=velmora.Clock\nExec=/usr/bin/clock{at}\n"
        )
    };
    let need = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nentries: { e: { needs: { c: { contract: velmora.Clock } } } }\n";
    let text = format!("{}{need}", (0..5).map(file).collect::<String>());
    let found = rules(&text);
    assert!(found.contains(&("ambiguous-implementation", "velmora.Clock".to_owned())), "{found:?}");
    assert_eq!(rules(&format!("{}{need}", file(0))), []);
}
