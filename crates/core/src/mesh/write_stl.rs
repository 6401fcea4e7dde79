//! Binary STL out.

use super::Mesh;

/// Writes a binary STL. Normals are left zero: every reader computes them from the winding.
#[must_use]
pub fn write_stl(mesh: &Mesh) -> Vec<u8> {
    let mut bytes = Vec::with_capacity(84 + mesh.triangles().len() * 50);
    let mut header = [0_u8; 80];
    let title = b"binary STL by Wembrit, mm";
    header[..title.len()].copy_from_slice(title);
    bytes.extend_from_slice(&header);
    bytes.extend_from_slice(&(mesh.triangles().len() as u32).to_le_bytes());
    for triangle in mesh.triangles() {
        bytes.extend_from_slice(&[0; 12]);
        for corner in triangle.map(|i| mesh.corners()[i as usize]) {
            for coordinate in corner {
                bytes.extend_from_slice(&coordinate.to_le_bytes());
            }
        }
        bytes.extend_from_slice(&[0; 2]);
    }
    bytes
}
