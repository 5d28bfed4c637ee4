"""What somebody would write instead: load all manifests, and say what is missing, circular or unused.

For benchmarks only. Takes a folder; needs PyYAML with its C loader, and networkx.
"""

import pathlib
import sys

import networkx
import yaml


def main(root):
    services, needed, graph = {}, set(), networkx.DiGraph()
    offers, carriers, entries = {}, {}, []
    for path in sorted(pathlib.Path(root).rglob("*.wiring.yaml")):
        with open(path, encoding="utf-8") as file:
            manifest = yaml.load(file, Loader=yaml.CSafeLoader)
        for name, service in (manifest.get("services") or {}).items():
            services[name] = service or {}
            for contract in services[name].get("offers") or []:
                offers.setdefault(contract, []).append(name)
            for tag in services[name].get("tags") or []:
                carriers.setdefault(tag if isinstance(tag, str) else next(iter(tag)), []).append(name)
        entries.extend((manifest.get("entries") or {}).items())
    missing = set()
    for name, holder in list(services.items()) + entries:
        graph.add_node(name)
        for need in (holder.get("needs") or {}).values():
            if "service" in need:
                targets = [need["service"]]
                missing.update(target for target in targets if target not in services)
            elif "contract" in need:
                targets = offers.get(need["contract"], [])
                if not targets and not need.get("optional"):
                    missing.add(need["contract"])
            else:
                targets = carriers.get(need.get("tag"), [])
            needed.update(targets)
            graph.add_edges_from((name, target) for target in targets)
    rings = [ring for ring in networkx.strongly_connected_components(graph) if len(ring) > 1]
    unused = [name for name in services if name not in needed]
    print(f"{len(services)} services: {len(missing)} missing, {len(rings)} rings, {len(unused)} unused")


main(sys.argv[1])
