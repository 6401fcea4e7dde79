"""weigh_plate.py P.stl ML: is the union of everything on a plate so many ml by a general-purpose library?"""
import sys

try:
    import manifold3d
    import numpy
    import trimesh
except ImportError:
    print("trimesh or manifold3d is not here: skipped")
    sys.exit(0)

mesh = trimesh.load(sys.argv[1], force="mesh")
mesh.merge_vertices()
whole, loose = [], 0.0
for part in mesh.split(only_watertight=False):
    solid = manifold3d.Manifold(
        manifold3d.Mesh(
            vert_properties=numpy.asarray(part.vertices, dtype=numpy.float32),
            tri_verts=numpy.asarray(part.faces, dtype=numpy.uint32),
        )
    )
    if solid.status() != manifold3d.Error.NoError or solid.volume() <= 0:
        # A shell with open edges is no solid there: it is added as it stands.
        loose += abs(part.volume)
    else:
        whole.append(solid)
union = manifold3d.Manifold.batch_boolean(whole, manifold3d.OpType.Add)
ml, ours = (union.volume() + loose) / 1000.0, float(sys.argv[2])
assert abs(ours / ml - 1.0) < 0.01, (ours, ml)
print(f"{ml:.3f} ml, {ours:.3f} here")
