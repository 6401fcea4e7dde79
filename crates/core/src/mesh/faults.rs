//! Every fault of a file, gathered into one line.

/// Faults told one by one; further ones are counted.
const NAMED: usize = 3;

/// Faults of a file as they are found.
#[derive(Debug, Default)]
pub(super) struct Faults {
    named: Vec<String>,
    count: usize,
}

impl Faults {
    /// A fault in a line.
    pub(super) fn add(&mut self, line: usize, what: &str) {
        self.note(|| format!("line {line} {what}"));
    }

    /// A fault without a line.
    pub(super) fn note(&mut self, what: impl FnOnce() -> String) {
        self.count += 1;
        if self.named.len() < NAMED {
            self.named.push(what());
        }
    }

    /// All of them in one line; nothing when there are none.
    pub(super) fn end(self) -> Option<String> {
        let more = self.count - self.named.len();
        let tail = if more > 0 {
            format!(", and {more} more faults")
        } else {
            String::new()
        };
        (self.count > 0).then(|| format!("{}{tail}", self.named.join(", ")))
    }
}
