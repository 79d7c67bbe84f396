"""What each parameter means: why it is measured, what is usual, possible causes, what it does."""

from kessa_core.guidance.parameters import Guidance, Harm, guidance_on, guided

__all__ = ["Guidance", "Harm", "guidance_on", "guided"]
