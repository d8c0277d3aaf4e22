//! The circles in which records refer to each other, found beforehand.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

/// So many records of a circle are named.
const NAMED: usize = 6;

/// The circles in which records of a file stand: by field and key.
#[derive(Debug, Default)]
pub struct Cycles {
    pub(super) rounds: HashMap<usize, HashMap<String, Arc<str>>>,
}

impl Cycles {
    /// Takes up a circle; only the records of the file are told.
    pub fn add(&mut self, field: usize, round: &[String], of_file: &HashSet<String>) {
        let of_field = self.rounds.entry(field).or_default();
        if round.iter().any(|key| of_field.contains_key(key)) {
            return;
        }
        // Whoever reads it begins with the least, so that it does not hang on the order in which they were met.
        let least = round.iter().enumerate().min_by_key(|(_, key)| *key).map_or(0, |(at, _)| at);
        let mut named: Vec<&str> =
            round.iter().cycle().skip(least).take(round.len().min(NAMED)).map(String::as_str).collect();
        if round.len() > NAMED {
            named.push("…");
        }
        named.extend(round.get(least).map(String::as_str));
        let shown: Arc<str> = named.join(" → ").into();
        for key in round.iter().filter(|key| of_file.contains(*key)) {
            of_field.insert(key.clone(), Arc::clone(&shown));
        }
    }
}
