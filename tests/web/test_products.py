"""Products as the page changes them: shapes, models, glass, what stands beside, materials."""

import io

import numpy as np
import pytest
from PIL import Image

from fotaxis.core.materials.catalogue import GLASSES, LIQUIDS, SKINS, TABLE_SKINS
from tests.formats import samples
from tests.web.test_bad_input import change


@pytest.fixture
def shot(alder):
    return alder.new_shot()


def shape(person, shot, kind, key="product"):
    return person.post(f"/shots/{shot}/shape", data={"kind": kind, "key": key})


def model(person, shot, data=samples.TETRAHEDRON, name="model.obj", **more):
    return person.post(f"/shots/{shot}/model", files={"file": (name, data, "text/plain")}, data={"unit": "cm", **more})


@pytest.mark.parametrize("kind", ["can", "box", "ball", "tube", "turned"])
def test_a_product_takes_every_shape_and_shows_it(alder, shot, kind):
    before = alder.document(shot)["subject"]
    answer = shape(alder, shot, kind)
    assert answer.status_code == 200
    subject = alder.document(shot)["subject"]
    assert subject["kind"] == kind
    assert (subject["name"], subject["body"]) == (before["name"], before["body"])
    form = alder.get(f"/shots/{shot}/product", json=False)
    assert form.status_code == 200
    assert f'<option value="{kind}" selected>' in form.text


def test_an_unknown_shape_is_refused_and_nothing_changes(alder, shot):
    before = alder.document(shot)
    answer = shape(alder, shot, "pyramid")
    assert answer.status_code == 422
    assert "choose one from the list" in answer.json()["problem"]
    assert alder.document(shot) == before


def test_a_model_file_becomes_the_product_and_stays_out_of_the_page(alder, shot):
    assert model(alder, shot).status_code == 200
    kept = alder.document(shot)["subject"]
    assert kept["kind"] == "model"
    assert len(kept["mesh"]) > 50
    assert alder.get(f"/shots/{shot}/state").json()["document"]["subject"]["mesh"] == ""
    # A change of something else leaves the triangles as they were.
    assert change(alder, shot, ["subject", "turn_deg"], 30).status_code == 200
    assert alder.document(shot)["subject"]["mesh"] == kept["mesh"]
    picture = alder.get(f"/shots/{shot}/picture.png?side=64", json=False)
    assert picture.headers["content-type"] == "image/png"


@pytest.mark.parametrize(
    ("data", "name", "words"),
    [(b"junk", "a.glb", "cannot be read"), (b"x", "a.exe", "choose a .glb"), (b"", "a.obj", "empty")],
)
def test_a_hostile_model_changes_nothing(alder, shot, data, name, words):
    before = alder.document(shot)
    answer = model(alder, shot, data, name)
    assert answer.status_code == 422
    assert words in answer.json()["problem"]
    assert alder.document(shot) == before


@pytest.mark.parametrize("kind", ["goblet", "tumbler", "bottle", "can", "carton", "ball", "tube"])
def test_things_are_put_beside_the_product(alder, shot, kind):
    answer = alder.post(
        f"/shots/{shot}/things", content=f'{{"kind": "{kind}"}}', headers={"content-type": "application/json"}
    )  # fmt: skip
    assert answer.status_code == 200
    key = answer.json()["selected"]
    assert [other["key"] for other in alder.document(shot)["others"]] == [key]
    assert f'data-key="{key}"' in "".join(answer.json()["floor"])
    assert change(alder, shot, ["others", key, "x_cm"], 18).status_code == 200
    assert alder.document(shot)["others"][0]["x_cm"] == 18
    assert shape(alder, shot, "ball", key).status_code == 200
    assert alder.document(shot)["others"][0]["kind"] == "ball"


def test_glass_is_filled_and_overfilled(alder, shot):
    glass = {"glass": "green glass", "wall_mm": 3, "floor_cm": 1}
    assert change(alder, shot, ["subject", "glass"], glass).status_code == 200
    assert change(alder, shot, ["subject", "liquid"], {"liquid": "red wine", "level_cm": 12}).status_code == 200
    before = alder.document(shot)
    answer = change(alder, shot, ["subject", "liquid", "level_cm"], 90)
    assert answer.status_code == 422
    assert "Lower the level" in answer.json()["problem"]
    assert alder.document(shot) == before


def test_two_things_in_one_place_are_said(alder, shot):
    alder.post(f"/shots/{shot}/things", content='{"kind": "can"}', headers={"content-type": "application/json"})
    answer = change(alder, shot, ["others", "can", "x_cm"], 2)
    said = next(thing for thing in answer.json()["things"] if thing["key"] == "can")
    assert "runs through the product" in said["fault"]


@pytest.mark.parametrize("surface", [m.name for m in TABLE_SKINS])
def test_every_table_top_can_be_chosen(alder, shot, surface):
    assert change(alder, shot, ["table", "surface"], surface).status_code == 200
    assert "Background behind the product" in alder.get(f"/shots/{shot}/state").json()["background"]


def test_the_background_grows_darker_with_distance(alder, shot):
    change(alder, shot, ["lights", "left", "turn_deg"], 180)  # a panel that faces it
    near = change(alder, shot, ["background", "distance_cm"], 100).json()["background"]
    far = change(alder, shot, ["background", "distance_cm"], 600).json()["background"]

    def stops(words):
        return float(words.split(": ")[1].split(" ")[0].replace("−", "-"))

    # A panel 35 cm behind the axis: 65 cm away, then 565: more than 5 stops by the inverse square, less its own size.
    assert stops(far) < stops(near) - 3


def test_the_material_page_explains_everything_in_two_sentences(alder):
    page = alder.get("/materials", json=False)
    assert page.status_code == 200
    for material in (*SKINS, *GLASSES, *LIQUIDS, *TABLE_SKINS):
        assert f"<strong>{material.name}</strong>" in page.text
        assert material.words.count(". ") + material.words.endswith(".") == 2, material.name


def test_a_material_has_a_picture_of_its_own(alder):
    def picture(kind, name):
        answer = alder.get(f"/materials/picture.png?kind={kind}&name={name}", json=False)
        assert answer.status_code == 200
        return np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGB"), float)

    gold, chrome = picture("skin", "polished gold"), picture("skin", "chrome")
    assert np.abs(gold - chrome).max() > 50
    middle = gold[60:130, 60:130]
    assert middle[..., 0].mean() > middle[..., 2].mean()  # gold is warmer
    assert alder.get("/materials/picture.png?kind=skin&name=nonsense", json=False).status_code == 404
