//! Pseudo-random numbers that are the same everywhere.

/// SplitMix64 (G. Steele, D. Lea, C. Flood, OOPSLA 2014, from memory).
#[derive(Debug, Clone, Copy)]
pub(crate) struct Rng(pub(crate) u64);

impl Rng {
    pub(crate) fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    /// From 0 to 1.
    pub(crate) fn share(&mut self) -> f64 {
        (self.next() >> 11) as f64 / (1u64 << 53) as f64
    }

    /// One of so many, at least one.
    pub(crate) fn below(&mut self, many: usize) -> usize {
        (self.next() % many.max(1) as u64) as usize
    }

    pub(crate) fn shuffle(&mut self, all: &mut [usize]) {
        for i in (1..all.len()).rev() {
            all.swap(i, self.below(i + 1));
        }
    }
}

/// So that well-known distributions can be drawn from it.
impl rand_core::TryRng for Rng {
    type Error = std::convert::Infallible;

    fn try_next_u32(&mut self) -> Result<u32, Self::Error> {
        Ok((self.next() >> 32) as u32)
    }

    fn try_next_u64(&mut self) -> Result<u64, Self::Error> {
        Ok(self.next())
    }

    fn try_fill_bytes(&mut self, into: &mut [u8]) -> Result<(), Self::Error> {
        for chunk in into.chunks_mut(8) {
            let bytes = self.next().to_le_bytes();
            chunk.copy_from_slice(&bytes[..chunk.len()]);
        }
        Ok(())
    }
}
