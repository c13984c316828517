/** A tar of `A.TXT` and `conf/b.cfg`, as other programs compressed it: there is none of these among the libraries. */
export const XZ_TAR = Buffer.from(
  '/Td6WFoAAATm1rRGAgAhARwAAAAQz1jM4Cf/AKhdACCLhoXDf3OrjNJpCYLmuVk4gVL7qcYKIRZGb9TPog4rV0e3Uoezw+gdZuyShO8bBawiP+0mBM/rfX3GAaICFXzH6Ea3kh7HmvuCJoAx9rD4GG/IlpzXtilqQa0ogshUzMVE98l5JOFT3y96VcjUxt7yUeY/HIWUZpfFqKtu2ZxRi6gIrVAA6+g5GbRx38HqSp2ifCQAXlUX4b9ErAtTamp1vVxLUP4hMAAklbMSDdkpmAABxAGAUAAARDmp9bHEZ/sCAAAAAARZWg==',
  'base64',
);
export const ZSTD_TAR = Buffer.from(
  'KLUv/WQAJ4UEADKGFBeAbQ7EE4xEhyEEIz1QLC37K0hImbiRAm5IGtWUfoEPQFhbjLk7gNA+R+nYlwoT89kI5jqOwthxN3JmdERpsp92qq73r0w4Uy/hv9dqd2EUABEXIGBFSUk6De7uHqTPRyVjKgW5eMCddEAhwNQbQCQCgAEuA7g7leij8hNEYRyAi/KaQhFYKBwUYDtxOD5Ndm4=',
  'base64',
);
/** What is in it. */
export const COMPRESSED_FILES = { 'A.TXT': 'hello from the coast', 'conf/b.cfg': 'id=7' } as const;
