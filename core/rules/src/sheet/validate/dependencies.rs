//! What waits for what: names that are there, and no ring.

use std::collections::BTreeMap;

use petgraph::algo::tarjan_scc;
use petgraph::graph::{DiGraph, NodeIndex};

use super::Faults;

impl Faults {
    /// Every name waited for exists, and nothing waits for itself in a ring: each member of a ring is named
    /// where it waits for another of it, so that whoever looks at one sees it there.
    pub(super) fn order(
        &mut self,
        what: &str,
        waits: &[(&str, &[String])],
        place: impl Fn(usize, usize) -> String,
    ) {
        let number: BTreeMap<&str, usize> =
            waits.iter().enumerate().map(|(i, w)| (w.0, i)).collect();
        let mut graph = DiGraph::<(), ()>::new();
        let nodes: Vec<NodeIndex> = waits.iter().map(|_| graph.add_node(())).collect();
        for (i, (_, after)) in waits.iter().enumerate() {
            for (a, key) in after.iter().enumerate() {
                match number.get(key.as_str()) {
                    Some(n) => {
                        graph.add_edge(nodes[i], nodes[*n], ());
                    }
                    None => self.add(place(i, a), format!("no {what} has the key “{key}”")),
                }
            }
        }
        let mut component = vec![0; waits.len()];
        let components = tarjan_scc(&graph);
        for (c, members) in components.iter().enumerate() {
            for member in members {
                component[member.index()] = c;
            }
        }
        for (c, members) in components.iter().enumerate() {
            let alone = members.len() == 1;
            if alone && !graph.contains_edge(members[0], members[0]) {
                continue;
            }
            let mut ring: Vec<usize> = members.iter().map(|m| m.index()).collect();
            ring.sort_unstable();
            let names: Vec<&str> = ring.iter().map(|i| waits[*i].0).collect();
            for i in &ring {
                let back =
                    |key: &String| number.get(key.as_str()).is_some_and(|n| component[*n] == c);
                if let Some(a) = waits[*i].1.iter().position(back) {
                    self.add(
                        place(*i, a),
                        format!(
                            "these wait for one another in a ring, so none can come first: {}",
                            names.join(", ")
                        ),
                    );
                }
            }
        }
    }
}
