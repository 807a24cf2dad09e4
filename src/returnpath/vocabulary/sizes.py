"""A conductor's size as the trade writes it."""

import re
from typing import Any

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

METRIC = "mm2"
KCMIL_FROM = 250


class Size(str):
    """AWG (``"12"``, ``"4/0"``), kcmil (``"250"``) or square millimetres (``"2.5mm2"``).

    Whether such a size is made is the tables' to say.
    """

    __slots__ = ()

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_after_validator_function(cls, core_schema.str_schema())

    @classmethod
    def typed(cls, text: str) -> "Size":
        """What a person typed: ``#6``, ``4/0 AWG``, ``250 kcmil``, ``2,5 mm²``."""
        if metric := re.fullmatch(r"(?i)\s*([\d.,]+)\s*mm(?:2|²)\s*", text):
            return cls(f"{metric[1].replace(',', '.')}{METRIC}")
        return cls(re.sub(r"(?i)^#|\s*(awg|kcmil|mcm)$", "", text.strip()).strip())

    @property
    def is_metric(self) -> bool:
        """Whether it is in square millimetres: IEC 60228, 20 °C."""
        return self.endswith(METRIC)

    @property
    def number(self) -> str:
        """The size without its unit."""
        return self.removesuffix(METRIC)

    @property
    def name(self) -> str:
        """``"12 AWG"``, ``"4/0 AWG"``, ``"250 kcmil"`` or ``"2.5 mm²"``."""
        if self.is_metric:
            return f"{self.number} mm²"
        kcmil = self.isdecimal() and int(self) >= KCMIL_FROM
        return f"{self} kcmil" if kcmil else f"{self} AWG"
