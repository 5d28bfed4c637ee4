//! The faults of the demo workspace.

/// One fault: the edit that makes it, and what must be found for it.
#[derive(Debug)]
pub(crate) struct Fault {
    /// The end of the path of the file it is in.
    pub(crate) file: &'static str,
    /// The text without the fault; it stands once in its file.
    pub(crate) corrected: &'static str,
    /// The text with it.
    pub(crate) faulty: &'static str,
    /// The rule and the subject of its finding.
    #[cfg_attr(not(test), expect(dead_code, reason = "what tests compare the audit with"))]
    pub(crate) found: (&'static str, &'static str),
}

/// All faults. No two touch the same text.
pub(crate) const FAULTS: &[Fault] = &[
    Fault {
        file: "timetable/timetable.wiring.yaml",
        corrected: "fleet: { service: vehicles.fleet }",
        faulty: "fleet: { service: vehicles.flet }",
        found: ("missing-service", "vehicles.flet"),
    },
    Fault {
        file: "signals/signals.wiring.yaml",
        corrected: "    type: velmora.signals.Points\n    needs: { track: { service: signals.track-plan } }",
        faulty: "    type: velmora.signals.Points\n    needs:\n      track: { service: signals.track-plan }\n      routes: { service: signals.routes }",
        found: ("service-cycle", "signals.interlocking > signals.points > signals.routes"),
    },
    Fault {
        file: "incidents/incidents.wiring.yaml",
        corrected: "announcer: { contract: Announcer }",
        faulty: "announcer: { contract: Anouncer }",
        found: ("missing-implementation", "Anouncer"),
    },
    Fault {
        file: "passenger/announcements.wiring.yaml",
        corrected: "departures: { contract: DepartureSource, key: onboard }",
        faulty: "departures: { contract: DepartureSource, key: on-board-display }",
        found: ("missing-key", "DepartureSource#on-board-display"),
    },
    Fault {
        file: "depot/depot.wiring.yaml",
        corrected: "open: { setting: depot.gate_seconds }",
        faulty: "open: { setting: depot.gate_second }",
        found: ("missing-setting", "depot.gate_second"),
    },
    Fault {
        file: "passenger/channels.wiring.yaml",
        corrected: "    offers: [PassengerChannel]\n    default: true\n",
        faulty: "    offers: [PassengerChannel]\n",
        found: ("ambiguous-implementation", "PassengerChannel"),
    },
    Fault {
        file: "passenger/announcements.wiring.yaml",
        corrected: "Announcer: { default: passenger.announcer.platform }",
        faulty: "Announcer: { default: passenger.announcer.plattform }",
        found: ("choice-mismatch", "Announcer"),
    },
    Fault {
        file: "traction/traction.wiring.yaml",
        corrected: "  traction.forecast:\n",
        faulty: "  depot.tracks:\n    type: velmora.traction.FedTracks\n    needs: { substations: { service: traction.substations } }\n  traction.forecast:\n",
        found: ("duplicate-service", "depot.tracks"),
    },
    Fault {
        file: "timetable/timetable.wiring.yaml",
        corrected: "- departure-rule: { priority: 20 }",
        faulty: "- departure-rule: { priority: 10, line: purple }",
        found: ("tag-attribute", "timetable.rule.replacement-bus"),
    },
    Fault {
        file: "incidents/incidents.wiring.yaml",
        corrected: "- escalation-step: { after_minutes: 5 }",
        faulty: "- escalation-steps: { after_minutes: 5 }",
        found: ("unknown-tag", "escalation-steps"),
    },
    Fault {
        file: "depot/depot.wiring.yaml",
        corrected: "  depot.washing:\n",
        faulty: "  depot.turntable:\n    type: velmora.depot.Turntable\n    needs: { tracks: { service: depot.tracks } }\n  depot.washing:\n",
        found: ("unused-service", "depot.turntable"),
    },
    Fault {
        file: "crew/crew.wiring.yaml",
        corrected: "    type: velmora.crew.SwapBoard\n    needs:\n",
        faulty: "    type: velmora.crew.SwapBoard\n    need:\n",
        found: ("unknown-field", "services.crew.swap-board.need"),
    },
    Fault {
        file: "traction/traction.wiring.yaml",
        corrected: "    offers: [Alarm]\n    key: power\n",
        faulty: "    offers: Alarm\n    key: power\n",
        found: ("wrong-shape", "services.traction.alarm.offers"),
    },
    Fault {
        file: "vehicles/vehicles.wiring.yaml",
        corrected: "  vehicles.history_days: 30\n",
        faulty: "  vehicles.history_days: 30\n  vehicles.position_seconds: 10\n",
        found: ("repeated-field", "settings.vehicles.position_seconds"),
    },
    Fault {
        file: "crew/import.wiring.yaml",
        corrected: "licences: { service: crew.licences, optional: true }",
        faulty: "licences: { service: crew.licences, optional: true",
        found: ("unreadable-file", "modules/crew/import.wiring.yaml"),
    },
    Fault {
        file: "timetable/timetable.wiring.yaml",
        corrected: "horizon: { setting: timetable.horizon_minutes }",
        faulty: "horizon: { setting: timetable.horizon_minutes }\n      log: { service: timetable.request-log }",
        found: ("short-lived-need", "timetable.board > timetable.request-log"),
    },
    Fault {
        file: "corvant.toml",
        corrected: "roster = [\"signals.provider\", \"vehicles.provider\",",
        faulty: "roster = [\"vehicles.provider\", \"signals.provider\",",
        found: ("needed-too-early", "vehicles.provider > signals.balises"),
    },
    Fault {
        file: "corvant.toml",
        corrected: "velmora.signals.NetworkClock",
        faulty: "velmora.signals.MasterClock",
        found: ("unmet-expectation", "Clock"),
    },
    Fault {
        file: "depot/depot.wiring.yaml",
        corrected: "uses: [vehicles, timetable, crew]",
        faulty: "uses: [vehicles, timetable]",
        found: ("undeclared-use", "depot > crew"),
    },
    Fault {
        file: "depot/depot.wiring.yaml",
        corrected: "needs: { count: { setting: depot.tracks } }",
        faulty: "needs: { count: { setting: depot.tracks }, antenna: { service: vehicles.antenna } }",
        found: ("internal-reach", "vehicles.antenna"),
    },
    Fault {
        file: "depot/depot.wiring.yaml",
        corrected: "    type: velmora.depot.Sanding\n    offers: [DepotTask]\n    tags:\n      - depot-task: { order: 3 }\n",
        faulty: "    type: velmora.depot.Sanding\n    offers: [DepotTask]\n",
        found: ("untagged-service", "depot.sanding"),
    },
    Fault {
        file: "signals/signals.wiring.yaml",
        corrected: "  signals.green_seconds: 8\n",
        faulty: "  signals.green_seconds: 8\n  signals.lamp_hours: 12\n",
        found: ("unused-setting", "signals.lamp_hours"),
    },
    Fault {
        file: "passenger/channels.wiring.yaml",
        corrected: "displays: { service: passenger.channel.displays }",
        faulty: "displays: { service: passenger.channel.displays, via: look-up }",
        found: ("hidden-need", "passenger.messages"),
    },
    Fault {
        file: "incidents/drill.wiring.toml",
        corrected: "needs.script = { service = \"incidents.drill-script\" }",
        faulty: "needs.script = { service = \"incidents.drill-script\" }\nneeds.whistle = { contract = \"Whistle\" }",
        found: ("missing-implementation", "Whistle"),
    },
    Fault {
        file: "passenger/announcements.wiring.yaml",
        corrected: "    type: velmora.passenger.Texts\n    needs:\n",
        faulty: "    type: velmora.passenger.Texts\n    needs:\n      sights: { contract: SightseeingSource }\n",
        found: ("missing-implementation", "SightseeingSource"),
    },
    Fault {
        file: "traction/meters.wiring.json",
        corrected: "\"every\": { \"setting\": \"traction.meter_seconds\" }",
        faulty: "\"every\": { \"setting\": \"traction.meter_seconds\", \"optional\": \"no\" }",
        found: ("wrong-shape", "services.traction.meter.needs.every.optional"),
    },
    Fault {
        file: "lifts/lifts.wiring.yaml",
        corrected: "type: velmora.lifts.tools.Counter",
        faulty: "type: velmora.lifts.tools.counter",
        found: ("missing-type", "velmora.lifts.tools.counter"),
    },
    Fault {
        file: "lifts/lifts.wiring.yaml",
        corrected: "board: { service: lifts.board }",
        faulty: "bord: { service: lifts.board }",
        found: ("argument-mismatch", "lifts.desk"),
    },
    Fault {
        file: "lifts/lifts.wiring.yaml",
        corrected: "method: setLine",
        faulty: "method: setPhone",
        found: ("missing-method", "velmora.lifts.Desk.setPhone"),
    },
    Fault {
        file: "lifts/lifts.wiring.yaml",
        corrected: "type: velmora.lifts.Phone",
        faulty: "type: velmora.lifts.Line",
        found: ("abstract-type", "lifts.phone"),
    },
    Fault {
        file: "lifts/src/Desk.java",
        corrected: "class SpareLift implements Lift {",
        faulty: "class SpareLift {",
        found: ("contract-not-implemented", "lifts.spare"),
    },
    Fault {
        file: "lifts/src/Lifts.java",
        corrected: "@Part(\"lifts.motor\")\nclass Motor {",
        faulty: "class Motor {",
        found: ("missing-implementation", "velmora.lifts.Motor"),
    },
    Fault {
        file: "lifts/tools/Counter.java",
        corrected: "public class Counter {}",
        faulty: "@Part(\"lifts.counting\")\npublic class Counter {}",
        found: ("unscanned-mark", "velmora.lifts.tools.Counter"),
    },
    Fault {
        file: "crossings/src/Crossings.cs",
        corrected: "            network.Bring<IWarning, Lights>();\n",
        faulty: "            network.Bring<IWarning, Lights>();\n            network.Bring<IWarning, Bells>();\n",
        found: ("ambiguous-implementation", "Velmora.Crossings.IWarning"),
    },
    Fault {
        file: "crossings/src/Crossings.cs",
        corrected: "network.Call(\"signals.clock\");",
        faulty: "network.Call(\"signals.clock\");\n            network.Call(\"crossings.plan\");\n            network.Bring<Plan>();",
        found: ("needed-too-early", "crossings.provider > crossings.plan"),
    },
    Fault {
        file: "crossings/src/Crossings.cs",
        corrected: "            warning.Warn();\n",
        faulty: "            warning.Warn();\n            network.Call(\"signals.detector\");\n",
        found: ("hidden-need", "crossings.barrier"),
    },
    Fault {
        file: "crossings/src/Requests.cs",
        corrected: "var points = network.Call(\"signals.points\");",
        faulty: "var points = network.Call(\"signals.pionts\");",
        found: ("lookup-of-missing", "signals.pionts"),
    },
    Fault {
        file: "crossings/src/Requests.cs",
        corrected: "                points.Look(crossing);\n",
        faulty: "                points.Look(crossing);\n                network.Call(\"signals.routes\");\n",
        found: ("repeated-lookup", "Velmora.Crossings.Requests > signals.routes"),
    },
];
