"""read_plate.py P.stl P.3mf COPIES VOLUME_MM3: does a general-purpose library read a plate as we wrote it?"""
import sys

try:
    import numpy
    import trimesh
except ImportError:
    print("trimesh is not here: skipped")
    sys.exit(0)

stl_path, three_path, copies, volume = sys.argv[1], sys.argv[2], int(sys.argv[3]), float(sys.argv[4])
stl = trimesh.load(stl_path, force="mesh")
try:
    scene = trimesh.load(three_path, force="scene")
except (ImportError, ModuleNotFoundError) as missing:
    print(f"its 3MF reader is not here ({missing}): skipped")
    sys.exit(0)
whole = scene.to_geometry() if hasattr(scene, "to_geometry") else scene.dump(concatenate=True)
assert len(scene.graph.nodes_geometry) == copies, (len(scene.graph.nodes_geometry), copies)
assert len(stl.faces) == len(whole.faces), (len(stl.faces), len(whole.faces))
assert numpy.allclose(stl.bounds, whole.bounds, atol=0.01), (stl.bounds, whole.bounds)
# The same sign: nothing is turned inside out or mirrored.
for mesh in (stl, whole):
    assert abs(mesh.volume - volume) < 1e-3 * abs(volume) + 0.5, (mesh.volume, volume)
print("read alike")
