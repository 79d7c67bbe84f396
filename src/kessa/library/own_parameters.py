"""Parameters of a programme's own, for pages that show a result without its method."""

from kessa.library.models import OwnParameter
from kessa.platform.models import Programme
from kessa_core.documents.own_parameter import OwnParameter as Definition
from kessa_core.methods import Method
from kessa_core.quantities import Parameter


def found(key: str) -> Parameter | None:
    """The parameter with this key, whichever programme brought it along: its key says all of it."""
    held = OwnParameter._base_manager.filter(key=key).first()
    return Definition.model_validate(held.definition).as_parameter() if held else None


def keep(programme: Programme, method: Method) -> None:
    """Keep the parameters that a method brings along."""
    for one in method.defines:
        OwnParameter.objects.of(programme).get_or_create(
            programme=programme, key=one.key, defaults={"definition": one.model_dump(mode="json")}
        )
