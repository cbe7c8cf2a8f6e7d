#version 330
// A drawing as its author saw it: no light, its own colours, laid over what is behind it.
uniform sampler2D picture;
uniform int style; // 0 as drawn, 1 clay, 2 what an outline is drawn from
uniform bool opaque; // only what hides all that is behind it
in vec2 uv;
in vec4 tint; // encoded as the picture is
out vec4 colour;
void main()
{
    colour = texture(picture, uv) * tint;
    if (opaque && colour.a < 0.998) discard;
    if (style != 0) {
        float light = dot(colour.rgb, vec3(0.21, 0.72, 0.07));
        vec3 clay = vec3(0.87, 0.80, 0.73) * mix(0.4, 1.0, light);
        colour.rgb = style == 1 ? clay : vec3(0.5, 0.5, light);
    }
}
