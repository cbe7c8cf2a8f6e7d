#version 330
// Linear blend skinning (glTF 2.0, 3.7.3.3), once per pose, kept by transform feedback.
uniform sampler2D palette; // three texels a row: the upper rows of a joint matrix
uniform sampler2D chosen;  // one texel a row: 1 where the joint is to be outlined
in vec3 in_position;
in vec3 in_normal;
in vec4 in_joints0;
in vec4 in_joints1;
in vec4 in_weights0;
in vec4 in_weights1;
out vec3 out_position;
out vec3 out_normal;
out float out_share;

void add(vec4 joints, vec4 weights, inout vec4 r0, inout vec4 r1, inout vec4 r2, inout float share)
{
    for (int k = 0; k < 4; ++k) {
        if (weights[k] > 0.0) {
            int row = int(joints[k]);
            r0 += weights[k] * texelFetch(palette, ivec2(0, row), 0);
            r1 += weights[k] * texelFetch(palette, ivec2(1, row), 0);
            r2 += weights[k] * texelFetch(palette, ivec2(2, row), 0);
            share += weights[k] * texelFetch(chosen, ivec2(0, row), 0).r;
        }
    }
}

void main()
{
    vec4 r0 = vec4(0.0), r1 = vec4(0.0), r2 = vec4(0.0);
    out_share = 0.0;
    add(in_joints0, in_weights0, r0, r1, r2, out_share);
    add(in_joints1, in_weights1, r0, r1, r2, out_share);
    vec4 p = vec4(in_position, 1.0);
    out_position = vec3(dot(r0, p), dot(r1, p), dot(r2, p));
    // the inverse transpose of the 3x3 part, up to a factor: right under uneven scale as well
    vec3 a = r0.xyz, b = r1.xyz, c = r2.xyz;
    vec3 n = vec3(dot(cross(b, c), in_normal), dot(cross(c, a), in_normal), dot(cross(a, b), in_normal));
    out_normal = normalize(n + vec3(0.0, 1e-12, 0.0));
    gl_Position = vec4(0.0);
}
