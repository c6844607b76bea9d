"""What DIN SPEC 15800 and 15801 require of a description, as far as Fence writes it: which elements
stand in which, what each must say of itself, and in which form."""

from __future__ import annotations

import re
from collections.abc import Iterator
from xml.etree.ElementTree import Element

NAME = r"[A-Za-z0-9 \"#%'()*+\-/:;<=>@_`]*"
LINK = r"[A-Za-z0-9 \"#%'()*+\-/:;<=>@_`.]+"
NUMBER = r"-?\d+(\.\d+)?([eE][+-]?\d+)?"
VALUE = r"\d+/[1-4]"
UUID = r"[0-9A-Fa-f]{8}(-[0-9A-Fa-f]{4}){3}-[0-9A-Fa-f]{12}"
ANY, WHOLE, HEX = r"[\s\S]*", r"-?\d+", r"0x[0-9A-F]+"
MATRIX = r"(\{" + r",".join([NUMBER] * 4) + r"\}){4}"
Rule = tuple[dict[str, str], tuple[str, ...]]
"""The attributes that an element must have, with their form; and what may stand in it."""

GDTF: dict[str, Rule] = {
    "GDTF": ({"DataVersion": r"\d\.\d+"}, ("FixtureType",)),
    "FixtureType": (
        {
            "Name": NAME,
            "ShortName": ANY,
            "LongName": ANY,
            "Manufacturer": ANY,
            "Description": ANY,
            "FixtureTypeID": UUID,
            "RefFT": ANY,
        },
        (
            "AttributeDefinitions",
            "Wheels",
            "PhysicalDescriptions",
            "Models",
            "Geometries",
            "DMXModes",
            "Revisions",
            "FTPresets",
            "Protocols",
        ),
    ),
    "AttributeDefinitions": ({}, ("ActivationGroups", "FeatureGroups", "Attributes")),
    "FeatureGroups": ({}, ("FeatureGroup",)),
    "FeatureGroup": ({"Name": NAME, "Pretty": ANY}, ("Feature",)),
    "Feature": ({"Name": NAME}, ()),
    "Attributes": ({}, ("Attribute",)),
    "Attribute": ({"Name": NAME, "Pretty": ANY, "Feature": LINK}, ()),
    "PhysicalDescriptions": (
        {},
        (
            "Emitters",
            "Filters",
            "ColorSpace",
            "AdditionalColorSpaces",
            "Gamuts",
            "DMXProfiles",
            "CRIs",
            "Properties",
        ),
    ),
    "Emitters": ({}, ("Emitter",)),
    "Emitter": (
        {"Name": NAME, "Color": ",".join([NUMBER] * 3), "DominantWaveLength": NUMBER},
        (),
    ),
    "ColorSpace": ({"Mode": NAME}, ()),
    "Properties": ({}, ("OperatingTemperature", "Weight", "LegHeight")),
    "OperatingTemperature": ({"Low": NUMBER, "High": NUMBER}, ()),
    "Weight": ({"Value": NUMBER}, ()),
    "LegHeight": ({"Value": NUMBER}, ()),
    "Models": ({}, ()),
    "Wheels": ({}, ()),
    "Geometries": ({}, ("Geometry",)),
    "Geometry": (
        {"Name": NAME, "Position": MATRIX},
        ("Geometry", "GeometryReference", "WiringObject"),
    ),
    "GeometryReference": ({"Name": NAME, "Position": MATRIX, "Geometry": NAME}, ("Break",)),
    "Break": ({"DMXOffset": r"(\d+\.)?\d+", "DMXBreak": WHOLE}, ()),
    "WiringObject": (
        {"Name": NAME, "ConnectorType": NAME, "ComponentType": NAME, "SignalType": NAME},
        (),
    ),
    "DMXModes": ({}, ("DMXMode",)),
    "DMXMode": (
        {"Name": NAME, "Description": ANY, "Geometry": NAME},
        ("DMXChannels", "Relations", "FTMacros"),
    ),
    "DMXChannels": ({}, ("DMXChannel",)),
    "DMXChannel": (
        {
            "DMXBreak": r"\d+",
            "Offset": r"\d+(,\d+)*",
            "InitialFunction": LINK,
            "Highlight": f"None|{VALUE}",
            "Geometry": NAME,
        },
        ("LogicalChannel",),
    ),
    "LogicalChannel": ({"Attribute": LINK}, ("ChannelFunction",)),
    "ChannelFunction": (
        {"Name": NAME, "Attribute": LINK, "DMXFrom": VALUE},
        ("ChannelSet", "SubChannelSet"),
    ),
    "ChannelSet": ({"Name": NAME, "DMXFrom": VALUE, "WheelSlotIndex": WHOLE}, ()),
    "Relations": ({}, ()),
    "FTMacros": ({}, ()),
    "Revisions": ({}, ()),
    "FTPresets": ({}, ()),
    "Protocols": ({}, ("FTRDM",)),
    "FTRDM": ({"ManufacturerID": HEX, "DeviceModelID": HEX}, ("SoftwareVersionID",)),
    "SoftwareVersionID": ({"Value": HEX}, ("DMXPersonality",)),
    "DMXPersonality": ({"Value": HEX, "DMXMode": NAME}, ()),
}
MVR: dict[str, Rule] = {
    "GeneralSceneDescription": (
        {"verMajor": WHOLE, "verMinor": WHOLE, "provider": ANY, "providerVersion": ANY},
        ("Scene", "UserData"),
    ),
    "Scene": ({}, ("Layers", "AUXData")),
    "Layers": ({}, ("Layer",)),
    "Layer": ({"name": ANY, "uuid": UUID}, ("Matrix", "ChildList")),
    "ChildList": ({}, ("Fixture",)),
    "Fixture": (
        {"name": ANY, "uuid": UUID},
        (
            "Matrix",
            "Classing",
            "GDTFSpec",
            "GDTFMode",
            "Position",
            "CustomCommands",
            "Addresses",
            "FixtureID",
            "FixtureIDNumeric",
            "UnitNumber",
            "Color",
        ),
    ),
    "Addresses": ({}, ("Address",)),
    "Address": ({"break": WHOLE}, ()),
    "CustomCommands": ({}, ("CustomCommand",)),
    "AUXData": ({}, ("Class", "Position", "Symdef")),
    "Class": ({"name": ANY, "uuid": UUID}, ()),
}
"""``Position`` is an identity within a fixture, and a thing with a name beside the scene."""
TEXTS = {
    "Matrix": r"(\{" + ",".join([NUMBER] * 3) + r"\}){4}",
    "Address": r"\d+",
    "GDTFSpec": r".+\.gdtf",
    "GDTFMode": ANY,
    "Classing": UUID,
    "FixtureIDNumeric": WHOLE,
    "UnitNumber": WHOLE,
}


def against(rules: dict[str, Rule], root: Element) -> list[str]:
    """What a description lacks, or has that it must not, in words."""
    return list(_each(rules, root))


def _each(rules: dict[str, Rule], element: Element) -> Iterator[str]:
    attributes, children = rules.get(element.tag, ({}, ()))
    for name, form in attributes.items():
        if name not in element.attrib:
            yield f"{element.tag} lacks {name}"
        elif not re.fullmatch(form, element.attrib[name]):
            yield f"{element.tag} {name}: {element.attrib[name]!r}"
    if (form := TEXTS.get(element.tag)) and not re.fullmatch(form, element.text or ""):
        yield f"{element.tag}: {element.text!r}"
    for child in element:
        if child.tag not in children:
            yield f"{child.tag} stands in {element.tag}"
        yield from _each(rules, child)
