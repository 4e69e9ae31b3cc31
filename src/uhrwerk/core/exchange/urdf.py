"""URDF with its meshes, in one archive: a mechanism as a tree of links; what closes loops is left out, and named in the file.

Elements: URDF specification, wiki.ros.org/urdf/XML (link, joint); from memory. A link's frame lies on its own joint.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterable
from xml.etree import ElementTree as Xml

import numpy as np

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import IDENTITY, Array
from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.exchange.link_tree import MOTIONS, Branch, LinkTree, bodies_of, far_frame, link_mass, link_tree
from uhrwerk.core.exchange.stl import triangles_file
from uhrwerk.core.joints import ResolvedJoint
from uhrwerk.core.stages.evaluation import Evaluation

#: of joints that state no limits: what a reader needs, and no machine reaches
FAR = 1e3
#: how a ball joint is written: three turns, one after the other
BALL = (("turn_x", "hinge", np.eye(3)[0]), ("turn_y", "hinge", np.eye(3)[1]), ("turn_z", "hinge", np.eye(3)[2]))


def _written(e: Evaluation, _: Chosen) -> bytes:
    tree = link_tree(e)
    root = Xml.Element("robot", name=e.stated.name)
    left = [
        *(f"{j.name}: it closes a loop" for j in tree.loops),
        *(f"{r.path}: a ratio" for r in tree.ratios),
        *tree.left_out,
    ]
    if left:
        root.append(Xml.Comment(" left out: " + "; ".join(left).replace("--", "- -") + " "))
    meshes: dict[str, bytes] = {}
    frames = {
        0: poses.inverse(tree.poses[0])
    }  # where a link's frame of the file lies in its own: the frame's is the world
    _link(e, tree, 0, poses.inverse(tree.poses[0]), root, meshes)
    for b in tree.branches:
        frames[b.link] = _frame(tree, b)
        _joint(e, tree, b, frames, root)
        _link(e, tree, b.link, frames[b.link], root, meshes)
    Xml.indent(root)
    text = f'<?xml version="1.0" encoding="UTF-8"?>\n{Xml.tostring(root, encoding="unicode")}'.encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in {"mechanism.urdf": text, **meshes}.items():
            archive.writestr(zipfile.ZipInfo(name), data)  # without the time: the same mechanism gives the same file
    return out.getvalue()


def _frame(tree: LinkTree, b: Branch) -> Array:
    """Where a link's frame of the file lies in its own: on its end of the joint."""
    if b.joint is None:
        return IDENTITY
    return np.asarray(b.joint.frame_a) if b.turned else _far(tree, b.joint)


def _far(tree: LinkTree, joint: ResolvedJoint) -> Array:
    """The end of a joint on its b."""
    if joint.kind not in MOTIONS or joint.kind in ("spherical", "rigid"):
        return np.asarray(joint.frame_b)
    starts = {name: float(tree.values[f"{joint.id}.{name}"][0]) for name, _, _ in MOTIONS[joint.kind]}
    return far_frame(tree.poses, joint, starts)


def _link(e: Evaluation, tree: LinkTree, link: int, frame: Array, root: Xml.Element, meshes: dict[str, bytes]) -> None:
    element = Xml.SubElement(root, "link", name=tree.names[link])
    mass, centre, inertia = link_mass(e, tree, link)
    back = poses.inverse(frame)
    turn = poses.matrix(back[3:])
    inertial = Xml.SubElement(element, "inertial")
    Xml.SubElement(inertial, "origin", xyz=_numbers(poses.place(back, centre[None])[0]), rpy="0 0 0")
    Xml.SubElement(inertial, "mass", value=_number(mass))
    moments = turn @ inertia @ turn.T
    names = {"ixx": (0, 0), "ixy": (0, 1), "ixz": (0, 2), "iyy": (1, 1), "iyz": (1, 2), "izz": (2, 2)}
    Xml.SubElement(inertial, "inertia", {n: _number(moments[at]) for n, at in names.items()})
    for one, local in bodies_of(e, tree, link):
        for name, body in one.solid.bodies.items():
            file = f"meshes/{one.id}.{name}.stl"
            meshes[file] = triangles_file([(body.vertices, body.triangles)], 1.0)
            visual = Xml.SubElement(element, "visual", name=f"{one.id}/{name}")
            Xml.SubElement(visual, "origin", _placed(poses.compose(back, local)))
            Xml.SubElement(Xml.SubElement(visual, "geometry"), "mesh", filename=file)
            material = Xml.SubElement(visual, "material", name=one.id)
            Xml.SubElement(material, "color", rgba=_numbers([*one.colour, 1.0]))


def _joint(e: Evaluation, tree: LinkTree, b: Branch, frames: dict[int, Array], root: Xml.Element) -> None:
    """The joint of a branch, as so many as it has motions, with links of no mass between them."""
    parent, child = tree.names[max(b.parent, 0)], tree.names[b.link]
    if b.joint is None:
        _one(root, f"{child}.free", "floating", (parent, child), tree.poses[b.link])
        return
    if b.joint.kind == "rigid":  # as it stands: what makes it may be several relations, with no frames of their own
        between = poses.compose(poses.inverse(tree.poses[b.parent]), tree.poses[b.link])
        at = poses.compose(poses.compose(poses.inverse(frames[b.parent]), between), frames[b.link])
        _one(root, b.joint.id, "fixed", (parent, child), at)
        return
    moves = BALL if b.joint.kind == "spherical" else MOTIONS[b.joint.kind]
    start = poses.compose(poses.inverse(frames[b.parent]), _far(tree, b.joint) if b.turned else b.joint.frame_a)
    limits = {name: (low, high) for name, low, high in b.joint.limits}
    for k, (name, sort, axis) in enumerate(moves[::-1] if b.turned else moves):
        last = k == len(moves) - 1
        to = child if last else f"{b.joint.id}.{name}.end"
        if not last:
            Xml.SubElement(root, "link", name=to)
        low_high = limits.get(name)
        turning = "continuous" if low_high is None else "revolute"
        joint = _one(root, f"{b.joint.id}.{name}", turning if sort == "hinge" else "prismatic", (parent, to), start)
        Xml.SubElement(joint, "axis", xyz=_numbers(-axis if b.turned else axis))
        if joint.get("type") != "continuous":
            low, high = low_high or (-FAR, FAR)
            Xml.SubElement(
                joint, "limit", lower=_number(low), upper=_number(high), effort=_number(FAR), velocity=_number(FAR)
            )
        parent, start = to, IDENTITY


def _one(root: Xml.Element, name: str, sort: str, ends: tuple[str, str], at: Array) -> Xml.Element:
    element = Xml.SubElement(root, "joint", name=name, type=sort)
    Xml.SubElement(element, "parent", link=ends[0])
    Xml.SubElement(element, "child", link=ends[1])
    Xml.SubElement(element, "origin", _placed(at))
    return element


def _placed(at: Array) -> dict[str, str]:
    """A pose as this format has it: turns about the fixed x, y and z axes, in this order."""
    m = poses.matrix(at[3:])
    pitch = np.arcsin(np.clip(-m[2, 0], -1, 1))
    if abs(m[2, 0]) < 1 - 1e-12:
        roll, yaw = np.arctan2(m[2, 1], m[2, 2]), np.arctan2(m[1, 0], m[0, 0])
    else:  # roll and yaw turn about the same axis: all of it is yaw
        roll, yaw = 0.0, np.arctan2(-m[0, 1], m[1, 1])
    return {"xyz": _numbers(at[:3]), "rpy": _numbers([roll, pitch, yaw])}


def _number(value: float) -> str:
    return f"{float(value):.12g}"


def _numbers(values: Iterable[float]) -> str:
    return " ".join(_number(v) for v in values)


FORMAT = Format(".urdf.zip", "Links and joints, with meshes", "application/zip", write=_written, whole=True)
