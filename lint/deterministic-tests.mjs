/**
 * An ESLint plug-in for test code: a test must not pass by luck. Each rule rejects one way to wait for luck, to ask it twice,
 * or to look away. `lint/deterministic-tests.test.ts` plants an example of each.
 */

/** Milliseconds from which a limit is one of minutes. */
const MINUTE = 60_000;

/** Value of an expression of numbers; undefined for anything else. */
function numberOf(node) {
  if (node?.type === 'Literal' && typeof node.value === 'number') return node.value;
  if (node?.type !== 'BinaryExpression') return undefined;
  const [left, right] = [numberOf(node.left), numberOf(node.right)];
  if (left === undefined || right === undefined) return undefined;
  return { '*': left * right, '+': left + right, '-': left - right, '/': left / right }[node.operator];
}

/** `a.b.c` of a call or member as text; parts that are computed are `?`. */
function nameOf(node) {
  if (!node) return '';
  if (node.type === 'Identifier') return node.name;
  if (node.type === 'CallExpression') return nameOf(node.callee);
  if (node.type === 'MemberExpression') {
    const name = node.computed
      ? node.property.type === 'Literal'
        ? String(node.property.value)
        : '?'
      : nameOf(node.property);
    return `${nameOf(node.object)}.${name}`;
  }
  return '?';
}

const keyOf = ({ key }) => (key?.type === 'Literal' ? String(key.value) : key?.name);

/**
 * Describes a rule that reports nodes.
 * @returns {import('eslint').Rule.RuleModule}
 */
function rule(message, listeners) {
  return {
    meta: { type: 'problem', schema: [], messages: { luck: message } },
    create: (context) => listeners((node) => context.report({ node, messageId: 'luck' }), context),
  };
}

const noRetry = rule('A test that is tried again passes by luck. Find the cause of its failure.', (report) => ({
  CallExpression: (node) => {
    if (/(^|\.)(retryTimes|toPass)$/.test(nameOf(node.callee))) report(node);
  },
  Property: (node) => {
    if (keyOf(node) === 'retries' && numberOf(node.value) !== 0) report(node);
  },
}));

/** Names by which the sleep of timers/promises is imported into a file. */
function sleepsOf(program) {
  return program.body
    .filter((one) => one.type === 'ImportDeclaration' && /^(node:)?timers\/promises$/.test(one.source.value))
    .flatMap((one) => one.specifiers);
}

const noSleep = rule(
  'A sleep hopes that a time is enough. Wait for the event, or hand the code a clock.',
  (report) => ({
    Program: (node) => sleepsOf(node).forEach(report),
    CallExpression: (node) => {
      const name = nameOf(node.callee);
      const isTimer = /^((globalThis|window|global)\.)?setTimeout$/.test(name) && numberOf(node.arguments[1]) !== 0;
      if (isTimer || /(^|\.)(waitForTimeout|setInterval)$/.test(name) || name === 'Atomics.wait') report(node);
    },
  }),
);

const TESTS = /^(test|it|describe|beforeAll|beforeEach|afterAll|afterEach)(\.|$)/;

const noLongLimit = rule('A limit of minutes hides a hang. Make the work smaller, or wait for progress.', (report) => ({
  CallExpression: (node) => {
    const name = nameOf(node.callee);
    const isLong = TESTS.test(name) && (numberOf(node.arguments.at(-1)) ?? 0) >= MINUTE;
    if (isLong || /^(jest|test)\.(setTimeout|slow)$/.test(name)) report(node);
  },
  Property: (node) => {
    if (/^(timeout|testTimeout)$/.test(keyOf(node) ?? '') && (numberOf(node.value) ?? 0) >= MINUTE) report(node);
  },
}));

const noClock = rule(
  'A measured time depends on the machine. Count reads, bytes or steps; times belong into the bench.',
  (report) => ({
    MemberExpression: (node) => {
      if (/(^|\.)(performance\.now|process\.hrtime|process\.cpuUsage)$/.test(nameOf(node))) report(node);
    },
    ':matches(ForStatement, WhileStatement, DoWhileStatement) > .test CallExpression': (node) => {
      if (nameOf(node.callee) === 'Date.now') report(node);
    },
  }),
);

const noHeapDifference = rule(
  'A heap that is measured contains what others left. Run the code in a process with a limit.',
  (report) => ({
    MemberExpression: (node) => {
      if (/(^|\.)process\.memoryUsage$/.test(nameOf(node))) report(node);
    },
  }),
);

/** True where a loop waits for something at most a number of times: `i < 50 && !isDone()`, and does nothing but wait. */
function isBoundedWait({ test, body }) {
  const only = body.type === 'BlockStatement' && body.body.length === 1 ? body.body[0] : body;
  if (only.type !== 'ExpressionStatement' || only.expression.type !== 'AwaitExpression') return false;
  if (test?.type !== 'LogicalExpression' || test.operator !== '&&') return false;
  return [test.left, test.right].some((one) => one.type === 'BinaryExpression' && /^[<>]=?$/.test(one.operator));
}

const noSilentEnd = rule(
  'A wait that ends without its event must fail there, and say what it waited for.',
  (report) => {
    const look = (loop) => {
      if (isBoundedWait(loop)) report(loop);
    };
    return { ForStatement: look, WhileStatement: look };
  },
);

const noSkip = rule(
  'A test that does not run proves nothing. Report by name what is missing, or delete it.',
  (report) => ({
    CallExpression: (node) => {
      if (/^(test|it|describe)(\.\w+)*\.(skip|only|todo|fixme|failing)(\.|$)/.test(nameOf(node.callee))) report(node);
      else if (/^x(it|test|describe)$/.test(nameOf(node.callee))) report(node);
    },
  }),
);

export const RULES = {
  'no-retry': noRetry,
  'no-sleep': noSleep,
  'no-long-limit': noLongLimit,
  'no-clock': noClock,
  'no-heap-difference': noHeapDifference,
  'no-silent-end': noSilentEnd,
  'no-skip': noSkip,
};

export default { rules: RULES };
