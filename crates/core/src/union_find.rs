//! Which things hang together: a forest in which everything points toward its set's least member
//! (R. Tarjan, J. ACM 22(2), 1975, from memory; paths are halved on the way).

/// Everything by itself.
pub(crate) fn apart(many: usize) -> Vec<u32> {
    (0..many as u32).collect()
}

/// The member that stands for a set.
pub(crate) fn find(root: &mut [u32], mut i: u32) -> u32 {
    while root[i as usize] != i {
        root[i as usize] = root[root[i as usize] as usize];
        i = root[i as usize];
    }
    i
}

/// Makes two sets one.
pub(crate) fn join(root: &mut [u32], a: u32, b: u32) {
    let (a, b) = (find(root, a), find(root, b));
    root[a.max(b) as usize] = a.min(b);
}
