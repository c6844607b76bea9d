"""Further wordings of functions in English, those of cheap and badly translated manuals among them.

A wording is written as it is compared: lower case, no punctuation. None stands under two functions.
"""

from __future__ import annotations

from fence.core.model.profile import Function

F = Function

MORE: dict[Function, str] = {
    F.DIMMER: """
        bright, brightness control, brightness adjust, total brightness, total bright, main dimmer, main intensity,
        general dimmer, virtual dimmer, dimmer level, luminosity, luminance, overall brightness, overall intensity,
        overall dimmer, global dimmer, global intensity, total dimmer, linear dimming, light adjusting,
        light adjust, lightness, lightness adjust, light intensity, led dimmer, master intensity, master brightness,
        level, lamp dimmer, dim master, dimm, regulation, output level, total light, intensity control, strength,
        lamp brightness, luminous intensity, rgb dimmer, rgbw dimmer, general intensity, general brightness
    """,
    F.RED: """
        deep red, dark red, far red, red light, red colour, red color, red level
    """,
    F.GREEN: """
        green light, green colour, green color, green level
    """,
    F.BLUE: """
        royal blue, deep blue, dark blue, blue light, blue colour, blue color, blue level
    """,
    F.WHITE: """
        natural white, white light, pure white, w w, c w, warm, cold, cool, warm light, cold light, warm white led,
        cold white led, white level, daylight, tungsten, wcw, ww led, cw led
    """,
    F.AMBER: """
        orange, amber light, golden, gold yellow
    """,
    F.UV: """
        purple light, uv light, ultra violet led, uv dimmer
    """,
    F.CYAN: """
        aqua, turquoise, cyan led
    """,
    F.CCT: """
        colour temp control, color temperature control, white temperature, white tone, warm cold, temp,
        colour temperature correction, color temperature correction, colour correction, color correction, ct,
        kelvin, variable white, tunable white, cto linear, virtual ct
    """,
    F.TINT: """
        green magenta shift, magenta green, minus green plus green, g m, plus green, minus green, gm shift,
        tint control
    """,
    F.PAN: """
        x axis rotation, x motor, x movement, pan motor, x position, pan pan rotation, horizontal movement,
        horizontal rotation, horizontal turn, horizontal rotate, horizontal move, horizontal motor, horizontal scan,
        pan axis, pan rotate, mirror pan, move left right, left right, pan angle, level rotation, level running,
        x rotation, xaxis, horizontal direction
    """,
    F.TILT: """
        y axis rotation, y motor, y movement, tilt motor, y position, tilt position, tilt rotation, vertical movement,
        vertical rotation, vertical turn, vertical rotate, vertical move, vertical motor, vertical scan, tilt axis,
        tilt rotate, mirror tilt, up down, tilt angle, y rotation, yaxis, vertical direction, pitch
    """,
    F.ZOOM: """
        beam size, zooming, spread, beam spread, lens zoom, zoom lens, zoom motor, magnification, linear zoom, angle
    """,
    F.FOCUS: """
        focal, sharpness, edge, lens focus, focus lens, focus motor, focus adjust, focussing
    """,
    F.IRIS: """
        iris diaphragm, diaphragm, aperture
    """,
    F.FROST: """
        frost filter, atomization, atomizing, soft, softness, diffuse, frost effect, soft light, frosting,
        light frost, heavy frost, wash filter
    """,
    F.GOBO: """
        pattern plate, pattern disc, gobo disc, gobo plate, gobo change, fixed gobo, fixed gobos, fixed gobo wheel,
        pattern wheel, image, gobo image, template, fixed pattern, rotating pattern, picture,
        patterns, gobo effect, gobo selector, gobo choice, animation wheel, animation disc, animation, graphics,
        graphic
    """,
    F.GOBO_ROTATION: """
        gobo self rotation, pattern self rotation, pattern self rotate, gobo wheel rotation, gobo position,
        gobo rotation index, gobo rotation speed, gobo indexing rotation, pattern rotate, animation wheel rotation,
        gobo angle, gobo index rotation, gobo spinning
    """,
    F.PRISM: """
        prism insert, prism effect, prism rotate, prism self rotate, prism self rotation, prism macro,
        prism position, prism wheel, prism selection, facet prism, prism index, prism in out, prism rotation index,
        rotating prism, beam prism, prism rotation speed, prism effects
    """,
    F.COLOUR_WHEEL: """
        color plate, colour plate, color disc, colour disc, color disk, colour disk, color film, colour film,
        colour change, color choose, color select, colour select, preset colours, preset colors, colour macros,
        color macros, virtual colour wheel, virtual color wheel, colour effect, color effect, color wheel effect,
        color wheels, fixed colours, fixed colors, colour preset, color preset, colour mixing, color mixing,
        colour mix, color mix, colour choice, colour mode, color mode, colour wheel position, static colour,
        static color, colour library, color library, static colours, static colors, colour selector, split colours,
        gel, gels, color changer, colour changer, colour scroll, scroller
    """,
    F.SHUTTER: """
        strobe frequency, flash frequency, flashing, flicker, shutter effect, shutter effects, strobe light,
        strobe control, strobe mode, led strobe, strobing, strobe flash, strobe duration, flash duration,
        strobe master, mechanical shutter, stroboscopic, strobo effect, blinder, shutter control, blackout,
        strobe random, pulse effect, strobe pulse, lightning, strobe on off
    """,
    F.SPEED: """
        movement time, response speed, tracking speed, speed adjust, rotation speed, rotor speed, mspeed,
        pan tilt time, p t time, speed pt, axis speed, moving speed, xy axis speed, x y speed, x y axis speed,
        running speed of motor, head speed, scan speed, scanning speed, pan speed, tilt speed, motor movement speed,
        speed of pan tilt, drawing speed, travel speed, motion speed
    """,
    F.PROGRAM: """
        built in program, built in programmes, built in effects, inner program, inside program, inside programs,
        function choose, function selection, function select, function, functions, mode select, mode selection,
        mode, working mode, run mode, running mode, operation mode, operating mode, auto run, auto running,
        auto play, self propelled, automatic, automatic programs, automatic program, automatic show, show mode,
        shows, show selection, scene, scenes, movement macro, movement macros, pan tilt macro, pan tilt macros,
        pixel effect, pixel effects, pixel program, pixel macro, chaser, chasers, chase selection, chase pattern,
        chase program, jump, jumping, gradual, gradual change, gradient, effect selection, effect select,
        effects selection, dynamic effects, dynamic effect, background effect, foreground effect,
        background effects, effect mode, effect program, effect programs, program select, program choose,
        program choice, macro effect, macro effects, macro selection, macro choice, pattern selection programs,
        pre programmed, preset, presets, preset program, internal program, internal effects, built in show,
        stand alone, demo, movement, movements, movement programs, movement effect, movement effects, xy effect,
        pan tilt effect, led effect, led effects, auto colour, auto color, auto change, water programme,
        cross fade programs
    """,
    F.SOUND: """
        voice control, voice, voice activated, voice activation, voice mode, sound to light, music control,
        music mode, mic sens, audio sensitivity, sensitivity, sound sens, microphone sensitivity, sound activated,
        audio control, audio mode, sound response, music sensitivity
    """,
    F.RESET: """
        restoration, restore, reset all, reset function, reset functions, reset motors, system, fixture settings,
        fixture functions, device settings, device control, device functions, settings, setting, control channel,
        special function, special control, special controls, lamp switch, lamp on, lamp off, lamp power,
        ignition, maintenance functions, service, service functions, power special functions, function control,
        preheat, lamp preheat, display, motor reset, reset special functions, control settings, fixture reset,
        machine reset, system reset, lamp reset, general control, configuration, auxiliary functions
    """,
    F.FUNCTION_SPEED: """
        chase rate, effect rate, effects speed, programs speed, macros speed, auto program speed,
        auto programs speed, colour change speed, color change speed, jump speed, fade speed, gradual speed,
        effect time, program rate, automatic speed, programmes speed, scene speed, scenes speed,
        movement macro speed, macro rate, show rate, dynamic effect speed, internal program speed,
        pixel effect speed, pixel speed, colour speed, color speed, pattern speed, chaser speed,
        program running speed, fade time, effect fade, inside program speed, speed auto, auto run speed, mode speed,
        preset speed, led effect speed, background effect speed, foreground effect speed, movement effect speed,
        sound speed, program time, effects rate, function rate
    """,
    F.FAN: """
        cooling, cooling fan, ventilation, fan mode, fan level, blower speed, fan intensity, fans
    """,
    F.OUTPUT: """
        smoke output, fog volume, haze volume, smoke volume, mist, servo, servo position, circuit, relay output,
        fire, flame, spark, sparks, bubble, bubbles, snow, jet, laser, laser on off, heater, purge, output volume,
        motor, valve position, fog level, haze level, haze density, fog density, density, smoke machine, foam,
        confetti, trigger, dimmer output, fan output, position, curtain, height
    """,
    F.OTHER: """
        dimmer mode, dimming speed, dimmer response, dimming response, response, response time, pwm frequency, pwm,
        led frequency, refresh rate, frequency, shaper, framing rotation, curve, curves, delay, delay time,
        crossfade, cross fade, dim speed, dim curve, id, hold, blank, null, dimming mode, dimmer fade, blade 1,
        blades, shutter blade, frequency control, led pwm, dimmer time, fade in, dimmer speed mode
    """,
}
"""Further wordings in English, those of cheap fixtures among them; parted by commas."""
