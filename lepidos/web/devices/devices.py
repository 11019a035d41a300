"""The panel of the stand-ins: what lies on the pan, cables, and the printer's tray."""

from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.core.errors import OutOfRange, Refused, Unknown
from lepidos.core.pack.labels import count
from lepidos.devices.line_scale import LineScale
from lepidos.devices.printer import SAYS
from lepidos.devices.spooler import Spooler
from lepidos.devices.stand_ins import (
    simulated_logger,
    simulated_printer,
    simulated_probe,
    simulated_scale,
)
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.render import context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/devices")
def show_devices(request: Request) -> Response:
    """The stand-ins' control panel."""
    ctx = context_of(request)
    ctx.labels.wait()
    asked, printer = request.query_params.get("scale", "")[:60], ctx.printer
    chosen = asked if asked in ctx.scales.named else ""
    scale = ctx.scale_at(chosen)
    return page(
        request,
        "devices/devices.html",
        current_view(request),
        here="devices",
        scale=simulated_scale(scale),
        scale_name=chosen,
        scale_names=tuple(ctx.scales.named),
        probe=simulated_probe(ctx.probe),
        logger=simulated_logger(ctx.logger),
        line=scale if isinstance(scale, LineScale) else None,
        printer=simulated_printer(printer),
        trouble=str(SAYS.get(getattr(printer, "trouble", ""), "")),
        spooler=printer if isinstance(printer, Spooler) else None,
        count=count,
    )


@router.post("/devices/scale")
@shows_again(show_devices)
def drive_scale(request: Request, form: Form) -> Response:
    """Lay a mass on the stand-in's pan, tare it, or pull its cable."""
    at = form.text("at", 60)
    scale = simulated_scale(context_of(request).scale_at(at))
    if scale is None:
        raise Unknown("stand-in", "scale")
    what = form.text("do")
    if what == "load":
        kg = form.mass_kg("load")
        form.done()
        if kg is None:
            raise Refused({"load": "Give a weight"})
        try:
            scale.put_on(kg)
        except OutOfRange as error:
            raise Refused({"load": "The stand-in's pan holds 0 to 60 kg"}) from error
    elif what == "clear":
        scale.put_on(0.0)
    elif what == "tare":
        scale.tare()
    elif what == "zero":
        scale.zero()
    elif what in {"cat", "no_cat"}:
        scale.cat(what == "cat")
    elif what == "drift":
        grams = form.number("drift")
        form.done()
        try:
            scale.drift(grams or 0.0)
        except OutOfRange as error:
            raise Refused({"drift": "The stand-in creeps by up to 20 g per minute"}) from error
    elif what in {"unplug", "plug"}:
        (scale.unplug if what == "unplug" else scale.plug_in)()
    return RedirectResponse(f"/devices?scale={quote(at)}" if at else "/devices", 303)


@router.post("/devices/probe")
@shows_again(show_devices)
def drive_probe(request: Request, form: Form) -> Response:
    """Put the stand-in probe into something of a temperature, or switch it off."""
    probe = simulated_probe(context_of(request).probe)
    if probe is None:
        raise Unknown("stand-in", "probe")
    if form.text("do") == "off":
        probe.plugged = False
    else:
        celsius = form.temperature_c("tip")
        form.done()
        if celsius is None:
            raise Refused({"tip": "Give a temperature"})
        try:
            probe.set_to(celsius)
        except OutOfRange as error:
            raise Refused({"tip": "The stand-in shows −60 to 150 °C"}) from error
    return RedirectResponse("/devices", 303)


@router.post("/devices/logger")
@shows_again(show_devices)
def drive_logger(request: Request, form: Form) -> Response:
    """Set the stand-in's freezer, open its door, take its power or the battery away."""
    logger = simulated_logger(context_of(request).logger)
    if logger is None:
        raise Unknown("stand-in", "logger")
    what = form.text("do")
    if what == "off":
        logger.unplug()
    elif what == "door":
        logger.door()
    elif what == "cut":
        logger.power_cut()
    else:
        celsius = form.temperature_c("set_to")
        form.done()
        if celsius is None:
            raise Refused({"set_to": "Give a temperature"})
        try:
            logger.set_to(celsius)
        except OutOfRange as error:
            raise Refused({"set_to": "The stand-in's freezer is set to −60 to 10 °C"}) from error
    return RedirectResponse("/devices", 303)


@router.post("/devices/printer")
def drive_printer(request: Request, form: Form) -> Response:
    """Put the stand-in printer into trouble, or right again."""
    printer = simulated_printer(context_of(request).printer)
    if printer is None:
        raise Unknown("stand-in", "printer")
    what = form.text("do")
    if what in SAYS or what == "on":
        printer.trouble = "" if what == "on" else what
    return RedirectResponse("/devices", 303)


@router.get("/devices/printer/{number}.pdf")
def printed(request: Request, number: int) -> Response:
    """A job from the tray, newest first."""
    context_of(request).labels.wait()
    printer = simulated_printer(context_of(request).printer)
    if printer is None or not 0 <= number < len(printer.tray()):
        raise Unknown("printed label", str(number))
    return Response(printer.tray()[number].pdf, media_type="application/pdf")
