"""English, with the wordings of cheap and badly translated manuals."""

from __future__ import annotations

from fence.core.charts.words.language import Language
from fence.core.model.profile import Function

F = Function

WORDS = Language(
    functions={
        F.DIMMER: """
            dimmer, d, int, master, master dimmer, dimmer master, intensity, dim, brightness,
            dimming, total dimming, grand master, light output, lamp intensity, dimmer intensity,
            bright, brightness control, brightness adjust, total brightness, total bright, main
            dimmer, main intensity, general dimmer, virtual dimmer, dimmer level, luminosity,
            luminance, overall brightness, overall intensity, overall dimmer, global dimmer, global
            intensity, total dimmer, linear dimming, light adjusting, light adjust, lightness,
            lightness adjust, light intensity, led dimmer, master intensity, master brightness,
            level, lamp dimmer, dim master, dimm, regulation, output level, total light, intensity
            control, strength, lamp brightness, luminous intensity, rgb dimmer, rgbw dimmer, general
            intensity, general brightness
        """,
        F.RED: """
            red, r, red led, red dimmer, red intensity, deep red, dark red, far red, red light, red
            colour, red color, red level
        """,
        F.GREEN: """
            green, g, grn, green led, green dimmer, green intensity, green light, green colour,
            green color, green level
        """,
        F.BLUE: """
            blue, b, blu, blue led, blue dimmer, blue intensity, royal blue, deep blue, dark blue,
            blue light, blue colour, blue color, blue level
        """,
        F.WHITE: """
            white, w, wht, white led, warm white, cold white, cool white, ww, cw, white dimmer,
            neutral white, white intensity, natural white, white light, pure white, w w, c w, warm,
            cold, cool, warm light, cold light, warm white led, cold white led, white level,
            daylight, tungsten, wcw, ww led, cw led
        """,
        F.AMBER: "amber, a, amb, amber led, amber dimmer, orange, amber light, golden, gold yellow",
        F.UV: """
            uv, ultraviolet, ultra violet, purple, violet, indigo, black light, uv led, purple
            light, uv light, ultra violet led, uv dimmer
        """,
        F.LIME: "lime, mint, lime green",
        F.CYAN: "cyan, c, aqua, turquoise, cyan led",
        F.MAGENTA: "magenta, m",
        F.YELLOW: "yellow, y",
        F.CCT: """
            cct, colour temperature, color temperature, color temp, colour temp, cto, ctc, ctb,
            white balance, linear cto, temperature, colour temp control, color temperature control,
            white temperature, white tone, warm cold, temp, colour temperature correction, color
            temperature correction, colour correction, color correction, ct, kelvin, variable white,
            tunable white, cto linear, virtual ct
        """,
        F.TINT: """
            tint, green magenta, plus minus green, green shift, duv, green magenta shift, magenta
            green, minus green plus green, g m, plus green, minus green, gm shift, tint control
        """,
        F.PAN: """
            pan, pan rotation, continuous pan, pan continuous, infinite pan, x axis, level axis,
            horizontal axis, pan movement, horizontal, x, x axis rotation, x motor, x movement, pan
            motor, x position, pan pan rotation, horizontal movement, horizontal rotation,
            horizontal turn, horizontal rotate, horizontal move, horizontal motor, horizontal scan,
            pan axis, pan rotate, mirror pan, move left right, left right, pan angle, level
            rotation, level running, x rotation, xaxis, horizontal direction
        """,
        F.TILT: """
            tilt, y axis, vertical axis, plumb axis, tilt movement, vertical, y axis rotation, y
            motor, y movement, tilt motor, y position, tilt position, tilt rotation, vertical
            movement, vertical rotation, vertical turn, vertical rotate, vertical move, vertical
            motor, vertical scan, tilt axis, tilt rotate, mirror tilt, up down, tilt angle, y
            rotation, yaxis, vertical direction, pitch
        """,
        F.ZOOM: """
            zoom, magnify, enlarge, beam angle, zoom angle, beam width, beam size, zooming, spread,
            beam spread, lens zoom, zoom lens, zoom motor, magnification, linear zoom, angle
        """,
        F.FOCUS: """
            focus, focusing, focal, sharpness, edge, lens focus, focus lens, focus motor, focus
            adjust, focussing
        """,
        F.IRIS: "iris, iris diaphragm, diaphragm, aperture",
        F.FROST: """
            frost, atomize, atomization, atomizing, fog lens, diffusion, diffuser, soft edge, frost
            filter, soft, softness, diffuse, frost effect, soft light, frosting, light frost, heavy
            frost, wash filter
        """,
        F.GOBO: """
            gobo, foreground gobo, gobo shake, gobo wheel, gobos, static gobo, rotating gobo, gobo
            selection, pattern, gobo select, static gobo wheel, rotating gobo wheel, pattern plate,
            pattern disc, gobo disc, gobo plate, gobo change, fixed gobo, fixed gobos, fixed gobo
            wheel, pattern wheel, image, gobo image, template, fixed pattern, rotating pattern,
            picture, patterns, gobo effect, gobo selector, gobo choice, animation wheel, animation
            disc, animation, graphics, graphic
        """,
        F.GOBO_ROTATION: """
            gobo rotation, gobo index, gobo spin, gobo rotate, pattern rotation, gobo indexing, gobo
            rot, pattern rot, gobo self rotation, pattern self rotation, pattern self rotate, gobo
            wheel rotation, gobo position, gobo rotation index, gobo rotation speed, gobo indexing
            rotation, pattern rotate, animation wheel rotation, gobo angle, gobo index rotation,
            gobo spinning
        """,
        F.PRISM: """
            prism, prism insertion, prism rotation, prism rot, prism insert, prism effect, prism
            rotate, prism self rotate, prism self rotation, prism macro, prism position, prism
            wheel, prism selection, facet prism, prism index, prism in out, prism rotation index,
            rotating prism, beam prism, prism rotation speed, prism effects
        """,
        F.COLOUR_WHEEL: """
            colour wheel, color wheel, colour, color, colors, colours, colour selection, color
            selection, color change, color macro, colour macro, colour presets, color presets, color
            plate, colour plate, color disc, colour disc, color disk, colour disk, color film,
            colour film, colour change, color choose, color select, colour select, preset colours,
            preset colors, colour macros, color macros, virtual colour wheel, virtual color wheel,
            colour effect, color effect, color wheel effect, color wheels, fixed colours, fixed
            colors, colour preset, color preset, colour mixing, color mixing, colour mix, color mix,
            colour choice, colour mode, color mode, colour wheel position, static colour, static
            color, colour library, color library, static colours, static colors, colour selector,
            split colours, gel, gels, color changer, colour changer, colour scroll, scroller
        """,
        F.SHUTTER: """
            shutter, strobe, s, shut, flash, shutter strobe, strobe shutter, strobe rate, strobe
            speed, flash rate, strobe effect, stroboscope, strobe effects, flash speed, electronic
            shutter, strobe frequency, flash frequency, flashing, flicker, shutter effect, shutter
            effects, strobe light, strobe control, strobe mode, led strobe, strobing, strobe flash,
            strobe duration, flash duration, strobe master, mechanical shutter, stroboscopic, strobo
            effect, blinder, shutter control, blackout, strobe random, pulse effect, strobe pulse,
            lightning, strobe on off
        """,
        F.SPEED: """
            speed, pan tilt speed, p t speed, movement speed, vector speed, motor speed, xy speed,
            pt speed, speed pan tilt, speed of movement, movement time, response speed, tracking
            speed, speed adjust, rotation speed, rotor speed, mspeed, pan tilt time, p t time, speed
            pt, axis speed, moving speed, xy axis speed, x y speed, x y axis speed, running speed of
            motor, head speed, scan speed, scanning speed, pan speed, tilt speed, motor movement
            speed, speed of pan tilt, drawing speed, travel speed, motion speed
        """,
        F.PROGRAM: """
            program, programs, fx, fx select, programme, macro, macros, auto program, auto programs,
            auto, show, effect, effects, chase, internal programs, built in programs, auto mode,
            auto show, own programs, preset programs, running program, chases, effect macro, program
            selection, built in program, built in programmes, built in effects, inner program,
            inside program, inside programs, function choose, function selection, function select,
            function, functions, mode select, mode selection, mode, working mode, run mode, running
            mode, operation mode, operating mode, auto run, auto running, auto play, self propelled,
            automatic, automatic programs, automatic program, automatic show, show mode, shows, show
            selection, scene, scenes, movement macro, movement macros, pan tilt macro, pan tilt
            macros, pixel effect, pixel effects, pixel program, pixel macro, chaser, chasers, chase
            selection, chase pattern, chase program, jump, jumping, gradual, gradual change,
            gradient, effect selection, effect select, effects selection, dynamic effects, dynamic
            effect, background effect, foreground effect, background effects, effect mode, effect
            program, effect programs, program select, program choose, program choice, macro effect,
            macro effects, macro selection, macro choice, pattern selection programs, pre
            programmed, preset, presets, preset program, internal program, internal effects, built
            in show, stand alone, demo, movement, movements, movement programs, movement effect,
            movement effects, xy effect, pan tilt effect, led effect, led effects, auto colour, auto
            color, auto change, water programme, cross fade programs
        """,
        F.SOUND: """
            sound, sound active, music, mic, microphone, audio, sound mode, sound control, sound
            sensitivity, mic sensitivity, sound activation, voice control, voice, voice activated,
            voice activation, voice mode, sound to light, music control, music mode, mic sens, audio
            sensitivity, sensitivity, sound sens, microphone sensitivity, sound activated, audio
            control, audio mode, sound response, music sensitivity
        """,
        F.RESET: """
            reset, reposition, restoration, control, special functions, lamp control, fixture
            control, maintenance, control functions, special, lamp on off, reset control, restore,
            reset all, reset function, reset functions, reset motors, system, fixture settings,
            fixture functions, device settings, device control, device functions, settings, setting,
            control channel, special function, special control, special controls, lamp switch, lamp
            on, lamp off, lamp power, ignition, maintenance functions, service, service functions,
            power special functions, function control, preheat, lamp preheat, display, motor reset,
            reset special functions, control settings, fixture reset, machine reset, system reset,
            lamp reset, general control, configuration, auxiliary functions
        """,
        F.FUNCTION_SPEED: """
            function speed, program speed, effect speed, macro speed, auto speed, chase speed, speed
            of programs, running speed, programme speed, show speed, chase rate, effect rate,
            effects speed, programs speed, macros speed, auto program speed, auto programs speed,
            colour change speed, color change speed, jump speed, fade speed, gradual speed, effect
            time, program rate, automatic speed, programmes speed, scene speed, scenes speed,
            movement macro speed, macro rate, show rate, dynamic effect speed, internal program
            speed, pixel effect speed, pixel speed, colour speed, color speed, pattern speed, chaser
            speed, program running speed, effect fade, inside program speed, speed auto, auto run
            speed, mode speed, preset speed, led effect speed, background effect speed, foreground
            effect speed, movement effect speed, sound speed, program time, effects rate, function
            rate
        """,
        F.PIXEL: "pixel, pixels",
        F.FAN: """
            fan, fan speed, fan control, blower, cooling, cooling fan, ventilation, fan mode, fan
            level, blower speed, fan intensity, fans
        """,
        F.OUTPUT: """
            output, relay, haze, haze output, fog, fog output, smoke, switch, pump, volume, valve,
            jet valve, drain, smoke output, fog volume, haze volume, smoke volume, mist, servo,
            servo position, circuit, relay output, fire, flame, spark, sparks, bubble, bubbles,
            snow, jet, laser, laser on off, heater, purge, output volume, motor, valve position, fog
            level, haze level, haze density, fog density, density, smoke machine, foam, confetti,
            trigger, dimmer output, fan output, position, curtain, height
        """,
        F.OTHER: """
            not used, no function, reserved, unused, dimmer curve, dimmer speed, dimming curve,
            blade, framing, empty, frame rotation, blade rotation, hue, saturation, fade time,
            standby, nc, n a, dummy, spare, no use, battery saver, fx size, effect size, dimmer
            mode, dimming speed, dimmer response, dimming response, response, response time, pwm
            frequency, pwm, led frequency, refresh rate, frequency, shaper, framing rotation, curve,
            curves, delay, delay time, crossfade, cross fade, dim speed, dim curve, id, hold, blank,
            null, dimming mode, dimmer fade, blade 1, blades, shutter blade, frequency control, led
            pwm, dimmer time, fade in, dimmer speed mode
        """,
    },
    heads={
        "channel number": "channel, channels, chan, ch, no, num, number, slot, slots, offset, byte",
        "function": """
            function, functions, feature, features, parameter, parameters, name, attribute, control,
            controls, what, item, does, it
        """,
        "levels": "value, values, range, ranges, level, levels, dmx, decimal, dec",
        "from": "from, min, minimum, start, low, least",
        "to": "to, max, maximum, end, high, most",
        "meaning": """
            meaning, meanings, effect, effects, result, results, remark, remarks, note, notes,
            detail, details, property, properties, setting, settings, description, descriptions,
            comment, comments, action, explanation, info, type, content
        """,
        "default": "default, defaults, home, standard, initial, init",
        "mode": "mode, personality",
        "cell": "cell, segment, pixel, zone, head, part, ring, section",
        "leave out": """
            percent, percentage, hex, hexadecimal, snap, fade, resolution, highlight, invert,
            inverted, crossfade, curve, unit, units, ltp, htp, priority, physical
        """,
    },
    fillers="""
        led, leds, light, lights, value, adjust, adjustment, adjusting, control, controls, dimming,
        intensity, brightness, level, function, channel, setting, all, total, the, of, a, an, for,
        in, to, with, on, by, its, from, output, select, selection, selecting, choose, choice,
        choosing, dmx, linear, 8, bit, general, global, color, colour
    """,
    channel="channel, chan, chnl, chn, ch, slot",
    channels="channels, chans, slots, ch",
    before_channels="control, dmx",
    footprint="footprint, channel count",
    offset="offset, byte",
    address="address, addr",
    first="start, starting, base, first",
    mode="mode, modes, personality, m0de",
    mode_numbered="model",
    mode_short="m, pers, pers.",
    mode_free="mode",
    mode_said="user",
    fine="""
        fine tune, fine tuning, finetune, finetuning, fine adjust, fine adjustment, fine adjusting,
        fine control, ultra fine, fine, lsb, low byte, lower byte, least significant, least
        significant byte, trimming
    """,
    coarse="""
        coarse, msb, high byte, higher byte, upper byte, most significant, most significant byte
    """,
    low="lo, low",
    high="hi, high",
    bits="bit, bits",
    bytes="byte, bytes",
    both_bytes="two bytes",
    cell="""
        cell, pixel, segment, zone, head, led, section, part, eye, ring, px, tube, bar, panel, spot
    """,
    lamp="lamp, bulb, circuit",
    number_sign="no, nr, num, n°, nº",
    degrees="deg, degree, degrees",
    verbs="is, are, control, controls, set, sets, for",
    article="the",
    like="repeat, repeated, same, as, like, ditto, identical",
    each="each",
    total="total, sum",
    and_so_on="etc, and so on",
    up_to_this="up to, to, until",
    default="default, defaults, home, initial",
    value="value",
    highlight="highlight",
    unused="not used, unused, no function, no use, reserve, reserved, empty, free, spare, n/a, na",
    nothing="none, n/a, na",
    idle="no function, off, none, no effect, manual, no program",
    labels="cue, pin, switch, dip, step, page, scene, preset, fixture, table, figure",
    counted="""
        gobo, gobos, color, colors, colour, colours, pattern, patterns, program, programs,
        programme, programmes, pixel, pixels, cell, cells, segment, segments, zone, zones, head,
        heads, led, leds, part, parts, ring, rings, macro, macros, effect, effects, show, shows,
        chase, chases, mix, mixes, mode, modes, channel, step, steps, scene, scenes, preset,
        presets, output, outputs, lamp, lamps, frame, frames, filter, filters, page, pages, item,
        items, slot
    """,
    units="khz, sec, secs, second, seconds, rpm, fps, bit",
    joints="and",
    up_to="to, up to, thru, through",
    start="from, between, entre",
    up_to_and_with="up to",
    below="below, under, less than",
    beginning_with="from",
    above="above, over, more than",
    and_up="and up, and above, and over, and more, on, onward, onwards, up, upward, upwards, +",
    speed="speed, rate",
    rotation="rotation, index, indexing, spin, rotate, rot",
    continued="continued, cont, cont., cont'd, contd",
    page="page, p",
    of_pages="of, /",
    glue="dmx, 512, of, in, the, number, and, or, description, 8, 16, bit",
    numbers="""
        two, three, four, five, six, seven, eight, nine, ten, eleven, twelve, thirteen, fourteen,
        fifteen, sixteen, seventeen, eighteen, nineteen, twenty
    """,
    ordinals="""
        first, second, third, fourth, fifth, sixth, seventh, eighth, ninth, tenth, eleventh,
        twelfth, thirteenth, fourteenth, fifteenth, sixteenth
    """,
)
